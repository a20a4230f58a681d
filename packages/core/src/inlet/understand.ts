/** From an arrival at an inlet to what it asks, or why it asks nothing. Pure: what happens then is the service's. */
import { askedNumber } from "../ask/limits.ts";
import { readPhrase } from "../phrase/read-phrase.ts";
import type { Decided, PhraseAsk, Reading } from "../phrase/reading.ts";
import type { Used } from "../phrase/segmented.ts";
import type { Vocabulary } from "../phrase/vocabulary.ts";
import { resolveName } from "../site/name.ts";
import { ROLES, type Role } from "../team/role.ts";
import { mapped } from "./mapping.ts";
import type { Arrival, Condition, Deed, Mapping, RouteInput } from "./model.ts";
import { type Holes, type Matched, matchRoute, type Router } from "./router.ts";

export type Understood =
  | {
      readonly asks: readonly PhraseAsk[];
      readonly used: readonly Used[];
      /** The place of the route that caught it, from 1; null: there are none, and the grammar read it. */
      readonly route: number | null;
      readonly reply: string | null;
    }
  /** What the grammar read that is no ask: a question, a choice, a greeting, or nothing. */
  | { readonly reading: Exclude<Reading, { reads: "asks" }>; readonly route: number | null }
  | { readonly ignored: true; readonly route: number }
  /** A value that the route's mapping does not know. */
  | { readonly unmapped: string; readonly known: readonly string[]; readonly route: number }
  | { readonly noRoute: true };

export interface Understanding {
  readonly router: Router;
  readonly vocabulary: Vocabulary;
  readonly input: RouteInput;
  readonly decided?: Decided;
}

/** Without routes of its own an inlet reads phrases. */
export function understand(arrival: Arrival, { router, vocabulary, input, decided }: Understanding): Understood {
  // Several routes may look at the same words: they are read once.
  const readings = new Map<string, Reading>();
  if (router.routes.length === 0) return fromPhrase(arrival.text ?? "", null, null);
  const matched = matchRoute(router, arrival, ({ when, only }) => {
    // A route for phrases leaves what the grammar cannot read to those after it.
    const reads = !("phrase" in when) || isReadable(arrival.text ?? "");
    return reads && holds(only, arrival, vocabulary, input);
  });
  if (!matched) return arrival.text === null || arrival.channel !== null ? { noRoute: true } : unreadable(arrival.text);
  const { route, place } = matched;
  if ("phrase" in route.when && !("target" in route.do))
    return fromPhrase(arrival.text ?? "", place, route.reply ?? null);
  return carryOut(route.do, arrival, matched);

  function read(text: string): Reading {
    const reading = readings.get(text) ?? readPhrase(text, vocabulary, decided);
    readings.set(text, reading);
    return reading;
  }

  function fromPhrase(text: string, place: number | null, reply: string | null): Understood {
    const reading = read(text);
    if (reading.reads !== "asks") return { reading, route: place };
    return { asks: reading.asks, used: reading.used, route: place, reply };
  }

  function isReadable(text: string): boolean {
    return read(text).reads !== "nothing";
  }

  function unreadable(text: string): Understood {
    const reading = read(text);
    return reading.reads === "asks" ? { noRoute: true } : { reading, route: null };
  }

  function carryOut(deed: Deed, from: Arrival, { place, holes, route }: Matched): Understood {
    if ("ignore" in deed) return { ignored: true, route: place };
    const known = { ...basicHoles(from), ...holes };
    const reply = route.reply ?? null;
    if ("phrase" in deed) return fromPhrase(filled(deed.phrase, known), place, reply);
    const meant = meaningOf(deed.map ?? {}, known);
    if (meant.holes === null) return { unmapped: meant.unmapped, known: meant.known, route: place };
    const ask = askOf(deed, meant.holes);
    const gave = `${ask.action} of ${ask.target}${ask.value === null ? "" : `: ${ask.value}`}`;
    return { asks: [ask], used: [{ words: route.name ?? `route ${place}`, gave }], route: place, reply };
  }
}

function askOf(deed: Extract<Deed, { target: string }>, holes: Holes): PhraseAsk {
  const { target, action, value, forMs = null } = deed;
  return {
    target: filled(target, holes),
    among: null,
    action: filled(action, holes),
    value: value === undefined || typeof value === "number" ? (value ?? null) : valueIn(filled(value, holes)),
    forMs,
  };
}

/** The holes with what their values mean; or the value that means nothing. */
function meaningOf(map: Readonly<Record<string, Mapping>>, known: Holes) {
  const holes: Record<string, string> = { ...known };
  for (const [hole, mapping] of Object.entries(map)) {
    const said = known[hole] ?? "";
    const means = mapped(said, mapping);
    if (means === null)
      return { holes: null, unmapped: said, known: "table" in mapping ? Object.keys(mapping.table) : [] } as const;
    holes[hole] = String(means);
  }
  return { holes };
}

function basicHoles({ text, sender, room }: Arrival): Holes {
  return { text: text ?? "", payload: text ?? "", sender: sender ?? "", room: room ?? "" };
}

/** @example filled("wren/{lamp}", { lamp: "porch" }) // → "wren/porch" */
function filled(template: string, holes: Holes): string {
  return template.replace(/\{([a-zA-Z]\w{0,30})\}/g, (_, hole: string) => holes[hole] ?? "").trim();
}

function valueIn(text: string): string | number | null {
  if (text === "") return null;
  return askedNumber(text) ?? text;
}

function holds(
  only: Condition | undefined,
  arrival: Arrival,
  { snapshot, sites }: Vocabulary,
  input: RouteInput,
): boolean {
  if (only?.senders && !only.senders.includes(arrival.sender ?? "")) return false;
  if (only?.role && ROLES.indexOf(input.roleOf(arrival)) < ROLES.indexOf(only.role)) return false;
  if (!only?.channel) return true;
  const found = resolveName(snapshot, only.channel.address, sites);
  return "found" in found && input.observed(found.found) === String(only.channel.is);
}

/** What a sender is at an inlet: the highest role that fits, or a user. */
export function roleAt(roles: Readonly<Record<string, Role>> | undefined, { room, sender }: Arrival): Role {
  const fitting = Object.entries(roles ?? {}).flatMap(([who, role]) => (isPermitted([who], room, sender) ? role : []));
  return ROLES.findLast((role) => fitting.includes(role)) ?? "user";
}

/**
 * Whether a sender is among those who may ask. `*` stands for any room or any sender.
 *
 * @example isPermitted(["hall/*"], "hall", "ana") // → true
 */
export function isPermitted(senders: readonly string[], room: string | null, sender: string | null): boolean {
  return senders.some((one) => {
    const [allowedRoom = "*", allowedSender] = one.includes("/") ? one.split("/") : ["*", one];
    const roomFits = allowedRoom === "*" || allowedRoom === (room ?? "");
    return roomFits && (allowedSender === "*" || allowedSender === (sender ?? ""));
  });
}
