/** The keys that a channel's row has: those of its kind. */
import type { ChannelView } from "@bold-relay/api";
import type { Value } from "@bold-relay/core";
import type { Key } from "../../parts/keys.tsx";
import type { Wish } from "./use-ask.ts";

/** How a channel that is run by holding is asked for anew, and ended. */
function holdOf({ holdForMs, kind }: ChannelView): Key<Wish>["hold"] {
  if (holdForMs === null) return undefined;
  const stops = kind === "motor" || kind === "position";
  // So often within the device's own time that one late answer does not let it stand.
  return { end: { action: stops ? "stop" : "off" }, renewMs: holdForMs / 3 };
}

/** The key that asks the device what it is; none where it cannot be asked. */
export function readKeys({ actions }: ChannelView, pressed: Wish | null): Key<Wish>[] {
  if (!actions.includes("read")) return [];
  return [{ label: "Read", meaning: { action: "read" }, is: null, asked: pressed?.action === "read" }];
}

/** @param pressed what was just pressed and is not taken by the service so far */
export function channelKeys(channel: ChannelView, pressed: Wish | null): Key<Wish>[] {
  const { kind, observed, lastCommand } = channel;
  const open = lastCommand !== null && lastCommand.end === null ? lastCommand.to : null;
  const is = (value: Value) => observed !== null && observed.stale === null && observed.value === value;
  const key = (label: string, action: string, value: Value): Key<Wish> => ({
    label,
    meaning: { action },
    is: is(value),
    asked: pressed ? pressed.action === action : open === value,
  });
  const hold = holdOf(channel);
  const run = (label: string, action: string, value: Value): Key<Wish> => {
    const made = key(label, action, value);
    return hold ? { ...made, hold } : made;
  };
  const step = (label: string, spoken: string, action: string): Key<Wish> => ({
    label,
    spoken,
    meaning: { action },
    is: null,
    asked: pressed?.action === action,
  });
  switch (kind) {
    case "relay":
    case "light":
      return [key("Off", "off", "off"), run("On", "on", "on")];
    case "dimmer":
      return [
        key("Off", "off", 0),
        step("\u2212", "Darker", "darker"),
        step("+", "Brighter", "brighter"),
        run("On", "on", 100),
      ];
    case "motor":
      return [run("Close", "close", -100), key("Stop", "stop", 0), run("Open", "open", 100)];
    case "colour":
    case "lamps":
      return [key("Off", "off", "#000000"), key("White", "on", "#ffffff")];
    case "position":
      return [run("Close", "close", 0), key("Stop", "stop", "stop"), run("Open", "open", 100)];
    case "contact":
    case "sensor":
      return [];
    case "pulse":
      return [{ label: "Pulse", meaning: { action: "pulse" }, is: null, asked: open !== null || pressed !== null }];
  }
}
