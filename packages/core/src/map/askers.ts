/** Who may ask at an inlet, and as a member. */

import { inputsOf } from "../inlet/input.ts";
import { inletKinds } from "../inlet/kind/index.ts";
import type { InletDescription, Route } from "../inlet/model.ts";
import { isPermitted } from "../inlet/understand.ts";
import type { Snapshot } from "../site/snapshot.ts";
import { routeFilter } from "../site/topic-right.ts";
import { type KeyLimits, limitedStanding } from "../team/key-limits.ts";
import { mayDo, type Right, ROLES, type Role, type Standing, sitesWith } from "../team/role.ts";
import type { MapAsker } from "./element.ts";

/** A key, without its secret. */
export interface MapKey {
  readonly name: string;
  /** ms since 1970; null: it does not expire. */
  readonly expiresAt: number | null;
}

export interface MapMember {
  readonly id: number;
  readonly name: string;
  readonly standing: Standing;
  readonly keys: readonly (MapKey & KeyLimits)[];
}

export interface MapInlet {
  readonly inlet: InletDescription;
  readonly keys: readonly MapKey[];
  /** Whether requests may be signed with a secret instead. */
  readonly signed: boolean;
}

interface MemberAsker {
  readonly asker: MapAsker;
  readonly standing: Standing;
  readonly memberId: number;
}

/** Every member, and every key that a member has. */
export function memberAskers(members: readonly MapMember[]): MemberAsker[] {
  return members.flatMap(({ id, name, standing, keys }) => {
    const member: MapAsker = { id: `member:${name}`, kind: "member", name, note: "", inlet: null, anybody: false };
    return [
      { asker: member, standing, memberId: id },
      ...keys.map(
        (key): MemberAsker => ({
          asker: {
            id: `key:${name}/${key.name}`,
            kind: "key",
            name: `Key “${key.name}”`,
            note: `of ${name}`,
            inlet: null,
            anybody: false,
            expiresAt: key.expiresAt,
          },
          standing: limitedStanding(standing, key),
          memberId: id,
        }),
      ),
    ];
  });
}

/** Those who have a right at a site, each with the role that gives it. */
export function holdersOf(right: Right, site: string, members: readonly MemberAsker[]): MapAsker[] {
  return members.flatMap(({ asker, standing }) => {
    const sites = sitesWith(standing, right);
    if (sites !== null && !sites.includes(site)) return [];
    const role = standing.team !== null && mayDo(standing.team, right) ? standing.team : standing.sites[site];
    const note = [asker.note, role ?? ""].filter((part) => part !== "").join(", ");
    return [{ ...asker, note }];
  });
}

/** Everybody who may ask at an inlet, whatever its routes; of a device inlet each route has its own inputs. */
export function inletAskers({ inlet, keys, signed }: MapInlet): MapAsker[] {
  const { slug, kind, senders, routes = [] } = inlet;
  const { keyless = false, needsSenders = false } = inletKinds[kind];
  const at = { inlet: slug, anybody: false };
  if (keyless) {
    const filters = [...new Set(routes.flatMap(({ when }) => ("topic" in when ? routeFilter(when.topic) : [])))];
    return filters.map((filter) => ({
      ...at,
      id: `publisher:${slug}/${filter}`,
      kind: "publisher",
      name: `Publishers on ${filter}`,
      note: "as the broker permits",
    }));
  }
  if (senders !== undefined || needsSenders) return (senders ?? []).map((sender) => senderAsker(inlet, sender));
  const holders = keys.map(
    ({ name, expiresAt }): MapAsker => ({
      ...at,
      id: `holder:${slug}/${name}`,
      kind: "holder",
      name: `Key “${name}”`,
      note: `of ${inlet.name}`,
      expiresAt,
    }),
  );
  if (kind === "sheet")
    holders.push({ ...at, id: `sender:${slug}`, kind: "sender", name: "Editors of the sheet", note: inlet.name });
  if (signed)
    holders.push({ ...at, id: `holder:${slug}`, kind: "holder", name: "Signed requests", note: `of ${inlet.name}` });
  return holders;
}

/** The inputs that a route listens to. One that two inlets hear is the same one. */
export function inputAskers(channel: string, site: string | null, snapshot: Snapshot): MapAsker[] {
  return inputsOf(channel, site, snapshot).map(({ address, name, room }) => ({
    id: `input:${address}`,
    kind: "input",
    name: `${name}, ${room.name}`,
    note: address,
    inlet: null,
    anybody: false,
  }));
}

function senderAsker({ slug, name: inletName }: InletDescription, sender: string): MapAsker {
  const [room = "*", who] = sender.includes("/") ? sender.split("/") : ["*", sender];
  const name = who === "*" ? "Any sender" : (who ?? "");
  const note = room === "*" ? `at ${inletName}` : `in ${room} at ${inletName}`;
  const anybody = who === "*" && room === "*";
  return { id: `sender:${slug}/${sender}`, kind: "sender", name, note, inlet: slug, anybody };
}

/** Those of an inlet's askers whom a route lets act, by its conditions. */
export function routeAskers(
  { when, only }: Route,
  { senders, roles = {} }: InletDescription,
  all: readonly MapAsker[],
): MapAsker[] {
  const byTopic =
    "topic" in when
      ? all.filter(({ kind, id }) => kind !== "publisher" || id.endsWith(`/${routeFilter(when.topic)}`))
      : all;
  if (senders === undefined || (!only?.senders && !only?.role)) return [...byTopic];
  return byTopic.filter(({ id, inlet }) => {
    const sender = id.slice(`sender:${inlet}/`.length);
    const [room, who = ""] = sender.includes("/") ? sender.split("/") : [null, sender];
    // Of “any sender” some may be whom the route wants.
    if (who === "*") return true;
    if (only.senders && !only.senders.includes(who)) return false;
    return only.role === undefined || hasRole(roles, room ?? null, who, only.role);
  });
}

function hasRole(roles: Readonly<Record<string, Role>>, room: string | null, who: string, least: Role): boolean {
  const own = Object.entries(roles).flatMap(([fits, role]) => (isPermitted([fits], room, who) ? role : []));
  const highest = ROLES.findLast((role) => own.includes(role)) ?? "user";
  return ROLES.indexOf(highest) >= ROLES.indexOf(least);
}
