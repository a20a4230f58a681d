/** What routes and phrases reach. One finder for all inlets: equal targets are the same object, and are looked for once. */

import { RECALL } from "../ask/guard.ts";
import { kindOf } from "../channel/index.ts";
import { mapped } from "../inlet/mapping.ts";
import type { Deed, Mapping } from "../inlet/model.ts";
import { readPhrase } from "../phrase/read-phrase.ts";
import type { PhraseAsk } from "../phrase/reading.ts";
import type { Vocabulary } from "../phrase/vocabulary.ts";
import type { Bundle } from "../site/bundle.ts";
import type { ChannelEntry } from "../site/entry.ts";
import { resolveName } from "../site/name.ts";
import { normalName } from "../site/normal-name.ts";
import type { Snapshot } from "../site/snapshot.ts";
import { channelTargetId, type MapTarget, type Reach } from "./element.ts";
import { NameIndex } from "./name-index.ts";
import { phraseFit } from "./phrase-fit.ts";

/** What a name or phrase reaches; `lost` are names that nothing has, or several have. */
export interface Found {
  readonly reaches: readonly Reach[];
  readonly lost: readonly string[];
}

/** Where a phrase is read. */
export interface PhrasePlace {
  readonly sites: readonly string[] | null;
  /** Made only where a phrase has to be read. */
  readonly vocabulary: () => Vocabulary;
  /** Of the inlet. */
  readonly synonyms: Readonly<Record<string, string>>;
}

type Holes = Readonly<Record<string, string>>;

/** Tables fill holes with certain values: so many combinations are followed, then any value is. */
const MOST_COMBINATIONS = 200;
const HOLE = /\{([a-zA-Z]\w{0,30})\}/g;

export class TargetFinder {
  private readonly snapshot: Snapshot;
  private readonly known = new Map<string, MapTarget>();
  private readonly byPattern = new Map<string, MapTarget>();
  private readonly names: NameIndex;

  constructor(snapshot: Snapshot) {
    this.snapshot = snapshot;
    this.names = new NameIndex(snapshot);
  }

  get targets(): readonly MapTarget[] {
    return [...this.known.values()];
  }

  /** Everything that takes commands at these sites; null: at every one. */
  everything(sites: readonly string[] | null): Reach[] {
    const all = this.snapshot.sites.filter(({ slug }) => sites === null || sites.includes(slug));
    return all.map(({ slug, name }) => {
      const target = this.once(`site:${slug}`, () => ({
        kind: "site",
        name: `Everything at ${name}`,
        address: slug,
        channels: this.commanded(this.snapshot.channels.filter(({ site }) => site.slug === slug)),
      }));
      return { target, action: null };
    });
  }

  /** Every channel to which something of ours applies. */
  some(id: string, name: string, channels: readonly ChannelEntry[]): MapTarget {
    return this.once(id, () => ({ kind: "names", name, address: null, channels: new Set(channels) }));
  }

  channel(channel: ChannelEntry): MapTarget {
    return this.once(channelTargetId(channel.address), () => ({
      kind: "channel",
      name: `${channel.name}, ${channel.room.name}`,
      address: channel.address,
      channels: this.commanded([channel]),
    }));
  }

  /** What a route's deed reaches. */
  deed(deed: Deed, { sites, vocabulary, synonyms }: PhrasePlace): Found {
    if ("ignore" in deed) return { reaches: [], lost: [] };
    if ("phrase" in deed) return this.phrase(deed.phrase, { sites, vocabulary, synonyms });
    const action = actionText(deed.action, deed.value ?? null);
    const found = combinations(deed.target, deed.map ?? {}).map((target) => this.named(target, action, sites));
    return { reaches: found.flatMap(({ reaches }) => reaches), lost: found.flatMap(({ lost }) => lost) };
  }

  /** What a phrase reaches; one with holes whatever fits its other words. */
  phrase(text: string, { sites, vocabulary, synonyms }: PhrasePlace): Found {
    if (hasHole(text)) return { reaches: this.phraseFitting(text, sites, synonyms), lost: [] };
    const reading = readPhrase(text, vocabulary());
    if (reading.reads !== "asks") return { reaches: [], lost: reading.reads === "nothing" ? [text] : [] };
    const found = reading.asks.map((ask) => this.asked(ask, sites));
    return { reaches: found.flatMap(({ reaches }) => reaches), lost: found.flatMap(({ lost }) => lost) };
  }

  private asked({ target, among, action, value }: PhraseAsk, sites: readonly string[] | null): Found {
    const words = actionText(action, value);
    if (among === null) return this.named(target, words, sites);
    const channels = among.flatMap((id) => this.snapshot.byId.get(id) ?? []);
    return { reaches: channels.map((channel) => ({ target: this.channel(channel), action: words })), lost: [] };
  }

  private named(target: string, action: string | null, sites: readonly string[] | null): Found {
    if (hasHole(target)) return { reaches: this.fitting(target, action, sites), lost: [] };
    const found = resolveName(this.snapshot, target, sites);
    if ("found" in found) return { reaches: [{ target: this.channel(found.found), action }], lost: [] };
    if ("bundle" in found) return { reaches: [this.bundle(found.bundle, action)], lost: [] };
    return { reaches: [], lost: [target] };
  }

  bundle(bundle: Bundle, action: string | null): Reach {
    const { kind, address, name, site } = bundle;
    const target = this.once(`${kind}:${address}`, () => ({
      kind,
      name: `${name}, ${site.name}`,
      address,
      channels: this.commanded(this.names.channelsOf(bundle)),
    }));
    return { target, action: kind === "scene" ? RECALL : action };
  }

  /** Channels, groups and scenes whose names or addresses fit a name with holes. */
  private fitting(target: string, action: string | null, sites: readonly string[] | null): Reach[] {
    const key = `${sites?.join(" ") ?? "*"} ${target}`;
    const known = this.byPattern.get(key);
    if (known) return [{ target: known, action }];
    if (target.replace(HOLE, "").trim() === "") return this.everything(sites);
    const channels = this.names.named(patternOf(target), sites);
    const found = this.once(`names:${key}`, () => ({
      kind: "names",
      name: target,
      address: null,
      channels: this.commanded([...channels]),
    }));
    this.byPattern.set(key, found);
    return [{ target: found, action }];
  }

  private phraseFitting(
    phrase: string,
    sites: readonly string[] | null,
    synonyms: Readonly<Record<string, string>>,
  ): Reach[] {
    const fits = phraseFit(phrase, synonyms);
    if (fits === null) return this.everything(sites);
    const channels = this.names.worded(fits, sites);
    // Words that nothing has: what it reaches cannot be told from them.
    if (channels.size === 0) return this.everything(sites);
    const target = this.once(`names:${sites?.join(" ") ?? "*"} ${phrase}`, () => ({
      kind: "names",
      name: `“${phrase}”`,
      address: null,
      channels: this.commanded([...channels]),
    }));
    return [{ target, action: null }];
  }

  private commanded(channels: readonly ChannelEntry[]): Set<ChannelEntry> {
    return new Set(channels.filter(takesCommands));
  }

  private once(id: string, make: () => Omit<MapTarget, "id">): MapTarget {
    const known = this.known.get(id) ?? { id, ...make() };
    this.known.set(id, known);
    return known;
  }
}

export function takesCommands({ kind, topics }: ChannelEntry): boolean {
  return !kindOf(kind).input && topics.do !== null;
}

/** @example actionText("set", 40) // → "set 40" */
function actionText(action: string, value: number | string | null): string | null {
  if (hasHole(action)) return null;
  if (value === null) return action;
  return hasHole(String(value)) ? `${action}, value as requested` : `${action} ${value}`;
}

function hasHole(text: string): boolean {
  return /\{[a-zA-Z]\w{0,30}\}/.test(text);
}

/** The targets that tables of values make of one with holes. What no table says stays a hole. */
function combinations(target: string, map: Readonly<Record<string, Mapping>>): string[] {
  let made: Holes[] = [{}];
  for (const hole of new Set([...target.matchAll(HOLE)].map(([, name = ""]) => name))) {
    const mapping = map[hole];
    if (!mapping || !("table" in mapping)) continue;
    const values = new Set(Object.keys(mapping.table).map((said) => String(mapped(said, mapping) ?? "")));
    made = made.flatMap((holes) => [...values].map((value) => ({ ...holes, [hole]: value })));
    if (made.length > MOST_COMBINATIONS) return [target];
  }
  return made.map((holes) => target.replace(HOLE, (whole, hole: string) => holes[hole] ?? whole));
}

/** A hole holds anything but a slash: a level of a topic, a field, a word. */
function patternOf(target: string): RegExp {
  // Marks of its own, which the one form of names leaves as they are.
  const literal = normalName(target.replace(HOLE, "\u0001")).replace(/[.*+?^${}()|[\]\\]/g, "\\$&");
  return new RegExp(`^${literal.replaceAll("\u0001", "[^/]+")}$`, "u");
}
