/** What channels, groups and scenes are called, for names with holes: all names are looked through once. */
import { isMeantByAll } from "../phrase/everything.ts";
import { nameWords } from "../phrase/token.ts";
import type { Bundle } from "../site/bundle.ts";
import type { ChannelEntry } from "../site/entry.ts";
import type { Snapshot } from "../site/snapshot.ts";
import type { Worded } from "./phrase-fit.ts";

type Named = ChannelEntry | Bundle;

export class NameIndex {
  readonly snapshot: Snapshot;
  private readonly words = new Map<Named, ReadonlySet<string>>();
  private names: Map<string, (readonly [name: string, named: Named])[]> | null = null;

  constructor(snapshot: Snapshot) {
    this.snapshot = snapshot;
  }

  /** What has a name that fits, at these sites; null: at every one. */
  named(pattern: RegExp, sites: readonly string[] | null): Set<ChannelEntry> {
    const found = new Set<ChannelEntry>();
    for (const site of sites ?? this.snapshot.sites.map(({ slug }) => slug)) {
      for (const [name, one] of this.namesOf(site))
        if (pattern.test(name)) for (const channel of this.channelsOf(one)) found.add(channel);
    }
    return found;
  }

  /** What has words that fit, at these sites; null: at every one. */
  worded(fits: (one: Worded) => boolean, sites: readonly string[] | null): Set<ChannelEntry> {
    const within = ({ site }: Named) => sites === null || sites.includes(site.slug);
    const found = new Set(
      this.snapshot.channels.filter(
        (channel) =>
          within(channel) &&
          fits({ words: this.wordsOf(channel), kind: channel.kind, inAll: isMeantByAll(channel, null, this) }),
      ),
    );
    for (const bundle of this.snapshot.bundles) {
      if (!within(bundle) || !fits({ words: this.wordsOf(bundle), kind: null, inAll: true })) continue;
      for (const channel of this.channelsOf(bundle)) found.add(channel);
    }
    return found;
  }

  channelsOf(named: Named): ChannelEntry[] {
    if (!("members" in named)) return [named];
    return named.members.flatMap(({ channel }) => this.snapshot.byId.get(channel) ?? []);
  }

  private namesOf(site: string): readonly (readonly [string, Named])[] {
    this.names ??= this.namesBySite();
    return this.names.get(site) ?? [];
  }

  private namesBySite(): Map<string, (readonly [string, Named])[]> {
    const bySite = new Map<string, (readonly [string, Named])[]>();
    for (const [name, all] of this.snapshot.byName) {
      for (const one of all) {
        const known = bySite.get(one.site.slug);
        if (known) known.push([name, one]);
        else bySite.set(one.site.slug, [[name, one]]);
      }
    }
    return bySite;
  }

  private wordsOf(named: Named): ReadonlySet<string> {
    const known = this.words.get(named);
    if (known) return known;
    const { name, slug, site } = named;
    const place = "room" in named ? `${named.room.name} ${named.room.slug} ${named.device.slug}` : "";
    const words = new Set(nameWords(`${name} ${slug} ${site.name} ${place}`));
    this.words.set(named, words);
    return words;
  }
}
