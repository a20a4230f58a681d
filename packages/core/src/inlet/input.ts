/** Inputs of our own devices as sources of requests: which channels a route means, and what it waits for. */
import { kindOf } from "../channel/index.ts";
import type { ChannelEntry } from "../site/entry.ts";
import { covers } from "../site/filter.ts";
import type { Snapshot } from "../site/snapshot.ts";
import { routeFilter } from "../site/topic-right.ts";
import { type Arrival, type InletDescription, NO_ARRIVAL, type When } from "./model.ts";
import { INPUT_EVENTS, type InputEvent, PRESS_TIMES, type PressTimes } from "./press.ts";

type ChannelWhen = Extract<When, { channel: string }>;

/** What a route for an input waits for. */
export function eventOf(when: ChannelWhen): InputEvent {
  return "becomes" in when ? when.becomes : when.pressed;
}

/**
 * The levels of an address that a route names, site first: a level may be a hole, and a site that is left out may be any that the inlet hears.
 *
 * @example inputLevels("{cottage}/button") // → ["+", "{cottage}", "button"]
 */
export function inputLevels(channel: string): string[] {
  const levels = channel.split("/");
  return levels.length === 2 ? ["+", ...levels] : levels;
}

/** Whether a channel is made or not made by somebody: a contact, and no reading. */
export function isSwitchInput({ kind }: Pick<ChannelEntry, "kind">): boolean {
  const { input } = kindOf(kind);
  return input !== false && !input.reading;
}

/** The channels that a route of an inlet listens to. */
export function inputsOf(channel: string, site: string | null, { channels, byAddress }: Snapshot): ChannelEntry[] {
  const [first = "", ...rest] = inputLevels(channel);
  const filter = routeFilter([first === "+" && site !== null ? site : first, ...rest].join("/"));
  if (!filter.includes("+")) return [byAddress.get(filter)].filter((found) => found !== undefined);
  const isHeard = (entry: ChannelEntry) => site === null || entry.site.slug === site;
  return switchInputs(channels).filter((entry) => isHeard(entry) && covers(filter, entry.address));
}

const inputs = new WeakMap<readonly ChannelEntry[], readonly ChannelEntry[]>();

/** Thousands of routes may ask, and few channels are inputs. */
function switchInputs(channels: readonly ChannelEntry[]): readonly ChannelEntry[] {
  const known = inputs.get(channels) ?? channels.filter(isSwitchInput);
  inputs.set(channels, known);
  return known;
}

/** How presses are told apart at an inlet. */
export function pressTimesOf({ settings = {} }: Pick<InletDescription, "settings">): PressTimes {
  const { debounceMs, doubleMs, longMs, releases } = { ...PRESS_TIMES, ...(settings as Partial<PressTimes>) };
  return { debounceMs, doubleMs, longMs, releases };
}

/** @example eventWords("twice") // → "pressed twice" */
export function eventWords(event: InputEvent): string {
  if (event === "on" || event === "off") return `becomes ${event}`;
  return event === "long" ? "pressed long" : `pressed ${event}`;
}

/** Whether a text is what an input can tell. */
export function isInputEvent(text: string | null): text is InputEvent {
  return INPUT_EVENTS.some((event) => event === text);
}

/** What an input told, as it comes in at an inlet: its sender is the input as people call it. */
export function inputArrival(
  {
    address,
    name,
    room,
  }: { readonly address: string; readonly name: string; readonly room: { readonly name: string } },
  event: InputEvent,
): Arrival {
  return { ...NO_ARRIVAL, channel: address, text: event, sender: `${name}, ${room.name}` };
}

/** @example fullAddress("finch/button", "alder-row") // → "alder-row/finch/button" */
export function fullAddress(channel: string, site: string | null): string {
  return site !== null && channel.split("/").length === 2 ? `${site}/${channel}` : channel;
}
