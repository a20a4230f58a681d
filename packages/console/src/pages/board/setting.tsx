/** What a level or a colour is set with: a slider, a choice of colour. What is not proven yet stays where the hand put it. */
import type { ChannelView } from "@bold-relay/api";
import { isColour, kindOf, parsePattern } from "@bold-relay/core";
import { useEffect, useRef, useState } from "react";
import type { Wish } from "./use-ask.ts";

/** How long after the hand let go the control follows the channel again, ms. */
const HOLDS_MS = 1_500;
/** Positions of a dragged hand are sent this often at most, ms: the lane keeps only the newest anyway. */
const SEND_EVERY_MS = 80;

interface SettingProps {
  readonly channel: ChannelView;
  readonly onSet: (wish: Wish) => void;
}

export function Setting({ channel, onSet }: SettingProps) {
  const { setting } = kindOf(channel.kind).control;
  if (setting === null) return null;
  const Control = SETTINGS[setting];
  return <Control channel={channel} onSet={onSet} />;
}

function Level({ channel, onSet }: SettingProps) {
  const is = channel.observed?.value;
  const { held, hold } = useHeld<number>((value) => onSet({ action: "level", value }));
  const { least, most, step, unit } = channel.range ?? { least: 0, most: 100, step: 1, unit: "%" };
  const shown = held ?? (typeof is === "number" ? is : least);
  return (
    <input
      type="range"
      min={least}
      max={most}
      step={step}
      value={shown}
      aria-label={`Level of ${channel.name}, ${channel.room.name}`}
      aria-valuetext={`${shown} ${unit}`}
      onChange={(event) => hold(Number(event.target.value))}
      className="h-7 w-[110px] accent-act max-md:h-10 max-md:w-[130px]"
    />
  );
}

function ColourChoice({ channel, onSet }: SettingProps) {
  const is = channel.observed?.value;
  const { held, hold } = useHeld<string>((value) => onSet({ action: "colour", value }));
  return (
    <input
      type="color"
      value={held ?? (isColour(is) ? is : "#000000")}
      aria-label={`Colour of ${channel.name}, ${channel.room.name}`}
      onChange={(event) => hold(event.target.value)}
      className="h-7 w-10 cursor-pointer rounded-key border border-soft bg-enclosure p-0.5 max-md:h-10"
    />
  );
}

/** The colours of a string of lamps, one after the other, in words. */
function Pattern({ channel, onSet }: SettingProps) {
  const [text, setText] = useState("");
  const isWrong = text.trim() !== "" && parsePattern(text) === null;
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (text.trim() === "" || isWrong) return;
        onSet({ action: "pattern", value: text });
        setText("");
      }}
    >
      <input
        value={text}
        onChange={(event) => setText(event.target.value)}
        placeholder="red, green"
        maxLength={1_000}
        aria-invalid={isWrong}
        aria-label={`Colours of ${channel.name}, ${channel.room.name}, one after the other`}
        className={`h-7 w-[110px] rounded-key border bg-enclosure px-2 text-note max-md:h-10 max-md:w-[130px] ${isWrong ? "border-wrong" : "border-soft"}`}
      />
    </form>
  );
}

/** By what a kind's control sets. */
const SETTINGS = { level: Level, colour: ColourChoice, pattern: Pattern };

/** Sends the newest position, not each of them; the last one always. */
function useHeld<Value>(send: (value: Value) => void) {
  const [held, setHeld] = useState<Value | null>(null);
  const newest = useRef<Value | null>(null);
  const timers = useRef<{ send?: ReturnType<typeof setTimeout>; release?: ReturnType<typeof setTimeout> }>({});
  useEffect(() => () => Object.values(timers.current).forEach(clearTimeout), []);
  const flush = () => {
    delete timers.current.send;
    if (newest.current === null) return;
    send(newest.current);
    newest.current = null;
    timers.current.send = setTimeout(flush, SEND_EVERY_MS);
  };
  const hold = (value: Value) => {
    setHeld(value);
    newest.current = value;
    if (timers.current.send === undefined) flush();
    clearTimeout(timers.current.release);
    timers.current.release = setTimeout(() => setHeld(null), HOLDS_MS);
  };
  return { held, hold };
}
