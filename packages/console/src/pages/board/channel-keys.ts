/** The keys that a channel's row has: those that its kind names. */
import type { ChannelView } from "@bold-relay/api";
import { type Action, endActionOf, isColour, kindOf, type Value } from "@bold-relay/core";
import type { Key } from "../../parts/keys.tsx";
import type { Wish } from "./use-ask.ts";

/** How a channel that is run by holding is asked for anew, and ended. */
function holdOf({ holdForMs, kind }: ChannelView): Key<Wish>["hold"] {
  if (holdForMs === null) return undefined;
  // So often within the device's own time that one late answer does not let it stand.
  return { end: { action: endActionOf(kindOf(kind)) }, renewMs: holdForMs / 3 };
}

/** The key that asks the device what it is; none where it cannot be asked. */
export function readKeys({ actions }: ChannelView, pressed: Wish | null): Key<Wish>[] {
  if (!actions.includes("read")) return [];
  return [{ label: "Read", meaning: { action: "read" }, is: null, asked: pressed?.action === "read" }];
}

/** @param pressed what was just pressed and is not taken by the service so far */
export function channelKeys(channel: ChannelView, pressed: Wish | null): Key<Wish>[] {
  const kind = kindOf(channel.kind);
  const { observed, lastCommand } = channel;
  const open = lastCommand !== null && lastCommand.end === null ? lastCommand.to : null;
  const isNow = (value: Value) => observed !== null && observed.stale === null && observed.value === value;
  const hold = holdOf(channel);
  return kind.control.keys.flatMap((name): Key<Wish>[] => {
    const action = kind.actions[name];
    if (!action) return [];
    const key = { ...lettering(name, action, kind.rest), meaning: { action: name } };
    if (action.asks !== "to") return [{ ...key, is: null, asked: pressed?.action === name }];
    const { to } = action;
    const asked = pressed ? pressed.action === name : open === to;
    const made = { ...key, is: kind.repeatable ? isNow(to) : null, asked };
    return [hold && name !== endActionOf(kind) ? { ...made, hold } : made];
  });
}

/** "On"; a step is a sign, with its word for who cannot see it; the full value of a colour is its name. */
function lettering(name: string, action: Action, rest: Value): Pick<Key<Wish>, "label" | "spoken"> {
  const word = `${name.charAt(0).toUpperCase()}${name.slice(1)}`;
  if (action.asks === "step") return { label: action.sign > 0 ? "+" : "\u2212", spoken: word };
  if (action.asks === "to" && isColour(action.to) && action.to !== rest) return { label: "White" };
  return { label: word };
}
