/** What is wrong with an inlet, beyond its form: found when it is saved, before anybody asks there. */

import type { Finding } from "../site/finding.ts";
import { nearestNames, resolveName } from "../site/name.ts";
import type { Snapshot } from "../site/snapshot.ts";
import type { TopicPicture } from "../site/topic-right.ts";
import { isReservedIdentifier } from "../team/requester.ts";
import { inletKinds } from "./kind/index.ts";
import type { InletDescription, Replies, Route } from "./model.ts";
import { replyHoles } from "./reply.ts";
import { shadowedRoutes } from "./router.ts";

/** What is published beside devices' topics. */
export type PublishedTopics = Pick<TopicPicture, "tellers" | "reserved">;

const NOTHING_PUBLISHED: PublishedTopics = { tellers: [], reserved: [] };

/**
 * @param others the other inlets that there are
 * @param topics what else is published
 */
export function checkInlet(
  inlet: InletDescription,
  snapshot: Snapshot,
  others: readonly InletDescription[],
  topics: PublishedTopics = NOTHING_PUBLISHED,
): Finding[] {
  const { routes = [], site } = inlet;
  const place: Place = { inlet, snapshot, sites: site === null ? null : [site], offers: MOST_OFFERS };
  const noSite = site !== null && !snapshot.sites.some(({ slug }) => slug === site);
  return [
    ...(noSite ? [wrong("site", `There is no site “${site}”.`)] : []),
    ...shadowedRoutes(routes).map(({ place: at, by }) =>
      doubt(`routes[${at - 1}]`, `never acts: route ${by} catches all of it before.`),
    ),
    ...routes.flatMap((route, index) => routeFindings(route, `routes[${index}]`, place)),
    ...replyFindings(inlet),
    ...checkInletKind(inlet, snapshot, others, topics),
    ...(isReservedIdentifier(inlet.slug) ? [wrong("slug", RESERVED)] : []),
  ];
}

/** What is wrong with it by its kind: topics that belong to others, say. A part of `checkInlet` that looks up no names. */
export function checkInletKind(
  inlet: InletDescription,
  snapshot: Snapshot,
  others: readonly InletDescription[],
  { tellers, reserved }: PublishedTopics = NOTHING_PUBLISHED,
): Finding[] {
  return inletKinds[inlet.kind].findings?.(inlet, { snapshot, others, tellers, reserved }) ?? [];
}

/** Whether a target or condition of its routes means something else in one snapshot than in the other, or nothing. */
export function targetsDiffer({ routes = [], site }: InletDescription, one: Snapshot, other: Snapshot): boolean {
  const sites = site === null ? null : [site];
  const meaning = (snapshot: Snapshot, target: string) => {
    const found = resolveName(snapshot, target, sites);
    if ("found" in found) return found.found.address;
    return "bundle" in found ? found.bundle.address : JSON.stringify(found);
  };
  return routes
    .flatMap(({ do: deed, only }) => [...("target" in deed ? [deed.target] : []), only?.channel?.address ?? []])
    .flat()
    .some((target) => meaning(one, target) !== meaning(other, target));
}

const RESERVED =
  "is a name of the service's own: requests there would look like a member's or like a rule's. Choose another.";

interface Place {
  readonly inlet: InletDescription;
  readonly snapshot: Snapshot;
  readonly sites: readonly string[] | null;
  /** For how many more unknown names those that come near are looked for. */
  offers: number;
}

/** A search for names that come near takes long where there are many. */
const MOST_OFFERS = 3;

function wrong(at: string, text: string): Finding {
  return { level: "wrong", at, text };
}

function doubt(at: string, text: string): Finding {
  return { level: "doubt", at, text };
}

/** A hole that nothing fills would be said as it stands. */
function replyFindings({ replies = {}, routes = [] }: InletDescription): Finding[] {
  const said = [
    ...Object.entries(replies).map(([which, text]) => ({ at: `replies.${which}`, which, text })),
    ...routes.map(({ reply }, index) => ({ at: `routes[${index}].reply`, which: "result", text: reply })),
  ];
  return said.flatMap(({ at, which, text }) => {
    const known = replyHoles[which as keyof Replies];
    const unknown = holesIn(text).find((hole) => !known.includes(hole));
    if (unknown === undefined) return [];
    return [wrong(at, `has a hole {${unknown}}, and it can fill ${known.map((hole) => `{${hole}}`).join(", ")}.`)];
  });
}

function routeFindings({ when, do: deed, only }: Route, at: string, place: Place): Finding[] {
  const { inlet, snapshot, sites } = place;
  const findings: Finding[] = [];
  if ("target" in deed && !deed.target.includes("{")) findings.push(...targetFindings(deed.target, `${at}.do.target`));
  const read = "topic" in when && when.payload ? ["to", "action", "value"] : [];
  const known = [...holesIn(when), ...read, "text", "payload", "sender", "room"];
  const unknown = holesIn(deed).find((hole) => !known.includes(hole));
  if (unknown !== undefined) {
    const given = known.map((hole) => `{${hole}}`).join(", ");
    findings.push(wrong(`${at}.do`, `has a hole {${unknown}}, and the route gives ${given}.`));
  }
  if (only?.channel && !("found" in resolveName(snapshot, only.channel.address, sites)))
    findings.push(wrong(`${at}.only.channel`, `No channel here is called “${only.channel.address}”.`));
  const { catches } = inletKinds[inlet.kind];
  if ("topic" in when && catches !== "topic")
    findings.push(wrong(`${at}.when`, `An inlet of the kind ${inlet.kind} has no topics.`));
  if ("digits" in when && catches !== "digits")
    findings.push(wrong(`${at}.when`, `An inlet of the kind ${inlet.kind} has no keys.`));
  if ("channel" in when && catches !== "channel")
    findings.push(wrong(`${at}.when`, `An inlet of the kind ${inlet.kind} hears no channels.`));
  return findings;

  function targetFindings(target: string, where: string): Finding[] {
    const found = resolveName(snapshot, target, sites);
    if ("ambiguous" in found) return [wrong(where, `Several are called “${target}”: ${found.ambiguous.join(", ")}.`)];
    if (!("unknown" in found)) return [];
    place.offers -= 1;
    const nearest = place.offers < 0 ? [] : nearestNames(snapshot, target, sites);
    const offer = nearest.length === 0 ? "" : ` Nearest: ${nearest.join(", ")}.`;
    return [wrong(where, `Nothing here is called “${target}”.${offer}`)];
  }
}

function holesIn(part: object | string = ""): string[] {
  return [...JSON.stringify(part).matchAll(/\{([a-zA-Z]\w*)\}/g)].map((match) => match[1] ?? "");
}
