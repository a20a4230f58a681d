/** The keys that a channel's row has: those of its kind. */
import type { ChannelView } from "@bold-relay/api";
import type { Value } from "@bold-relay/core";
import type { Key } from "../../parts/keys.tsx";
import type { Wish } from "./use-ask.ts";

/** @param pressed what was just pressed and is not taken by the service so far */
export function channelKeys(channel: ChannelView, pressed: Wish | null): Key<Wish>[] {
  const { kind, observed, lastCommand } = channel;
  const open = lastCommand !== null && lastCommand.end === null ? lastCommand.to : null;
  const is = (value: Value) => observed !== null && observed.value === value;
  const key = (label: string, action: string, value: Value): Key<Wish> => ({
    label,
    meaning: { action },
    is: is(value),
    asked: pressed ? pressed.action === action : open === value,
  });
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
      return [key("Off", "off", "off"), key("On", "on", "on")];
    case "dimmer":
      return [
        key("Off", "off", 0),
        step("\u2212", "Darker", "darker"),
        step("+", "Brighter", "brighter"),
        key("On", "on", 100),
      ];
    case "motor":
      return [key("Close", "close", -100), key("Stop", "stop", 0), key("Open", "open", 100)];
    case "colour":
    case "lamps":
      return [key("Off", "off", "#000000"), key("White", "on", "#ffffff")];
    case "position":
      return [key("Close", "close", 0), key("Stop", "stop", "stop"), key("Open", "open", 100)];
    case "contact":
    case "sensor":
      return [];
    case "pulse":
      return [{ label: "Pulse", meaning: { action: "pulse" }, is: null, asked: open !== null || pressed !== null }];
  }
}
