/** The names under which channels, groups and scenes are found. */ import { nameWords } from "../phrase/token.ts";
import type { Bundle } from "./bundle.ts";
import type { ChannelEntry } from "./entry.ts";
import { NameTree } from "./name-tree.ts";
import { normalName } from "./normal-name.ts";
import { remembered } from "./remembered.ts";

/** Everything by the names that people have for it. */
export interface NamesInSnapshot {
  /** Normalised name or address → everything that it can mean. */
  readonly byName: ReadonlyMap<string, readonly (ChannelEntry | Bundle)[]>;
  /** The same names, word by word, by site. */
  readonly names: ReadonlyMap<string, NameTree<ChannelEntry | Bundle>>;
}

export function* namesOfAll(
  channels: readonly ChannelEntry[],
  bundles: readonly Bundle[],
): Generator<void, NamesInSnapshot> {
  const byName = new Map<string, (ChannelEntry | Bundle)[]>();
  const names = new Map<string, NameTree<ChannelEntry | Bundle>>();
  const treeOf = (site: string) => {
    const tree = names.get(site) ?? new NameTree();
    names.set(site, tree);
    return tree;
  };
  const put = (name: string, named: ChannelEntry | Bundle) => {
    const known = byName.get(name);
    if (known) known.push(named);
    else byName.set(name, [named]);
  };
  const normal = remembered(normalName);
  const words = remembered(nameWords);
  for (const [index, channel] of channels.entries()) {
    for (const name of namesOf(channel, normal)) put(name, channel);
    const tree = treeOf(channel.site.slug);
    for (const name of namesInWords(channel, words)) tree.put(name, channel);
    if (index % STEP === 0) yield;
  }
  for (const bundle of bundles) {
    const { name, address, site } = bundle;
    for (const text of new Set([name, `${site.name} ${name}`, address].map(normalName))) {
      put(text, bundle);
      treeOf(site.slug).put(nameWords(text), bundle);
    }
  }
  return { byName, names };
}

/** Every way in which people may call a channel. Those that several share are ambiguous, and said to be so. */
function namesOf(channel: ChannelEntry, normal: (text: string) => string): Set<string> {
  const { room, site, device, address, slug } = channel;
  const [name, inRoom, atSite] = [normalName(channel.name), normal(room.name), normal(site.name)];
  return new Set([
    address,
    `${device.slug}/${slug}`,
    name,
    `${inRoom} ${name}`,
    `${name} ${inRoom}`,
    `${atSite} ${inRoom} ${name}`,
    `${atSite} ${name}`,
  ]);
}

/** The names of `namesOf` as words. A name that is put together has the words of its parts. */
function namesInWords({ name, room, site, device, address, slug }: ChannelEntry, words: (text: string) => string[]) {
  const [own, inRoom, atSite] = [nameWords(name), words(room.name), words(site.name)];
  return [
    nameWords(address),
    nameWords(`${device.slug}/${slug}`),
    own,
    [...inRoom, ...own],
    [...own, ...inRoom],
    [...atSite, ...inRoom, ...own],
    [...atSite, ...own],
  ];
}

/** As many channels as are looked at between two steps: some tenths of a millisecond. */
export const STEP = 25;
