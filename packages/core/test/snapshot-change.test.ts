/** The snapshot after a change of some sites is the one that building it anew gives, whatever changed. */
import fc from "fast-check";
import { expect, it } from "vitest";
import {
  buildSnapshot,
  type ChannelRecord,
  changedSnapshotSteps,
  type SiteRecord,
  type Snapshot,
} from "../src/index.ts";
import { record } from "./support/site.ts";

const SLUGS = ["alder-row", "fennel-hall", "glasshouse"];

interface Made {
  readonly site: SiteRecord;
  readonly records: readonly ChannelRecord[];
}

/** A site of some channels, of which the first two are a group and exclude each other. */
function made(slug: string, names: readonly string[]): Made {
  const site = { slug, name: slug };
  const records = names.map((name, place) =>
    record(100 * (SLUGS.indexOf(slug) + 1) + place, "Wren", name, { site, slug: `lamp-${place}` }),
  );
  const channels = records.slice(0, 2).map(({ device, slug: channel }) => `${device.slug}/${channel}`);
  return {
    records,
    site: {
      ...site,
      groups: [{ slug: "pair", name: "Pair", channels }],
      interlocks: [{ name: "one", channels, meets: "refuse" }],
    },
  };
}

const names = fc.array(fc.constantFrom("Porch", "Hall", "Gate", "Far gate"), { maxLength: 5 });
const installation = fc.dictionary(fc.constantFrom(...SLUGS), names).map((sites) => sitesOf(sites));

function sitesOf(sites: Readonly<Record<string, readonly string[]>>): Made[] {
  return SLUGS.flatMap((slug) => (sites[slug] ? [made(slug, sites[slug])] : []));
}

function built(all: readonly Made[]): Snapshot {
  return buildSnapshot(
    all.flatMap(({ records }) => records),
    all.map(({ site }) => site),
  );
}

/** Without the functions of codecs, which are made anew. */
function plain(snapshot: Snapshot): unknown {
  const { names: trees, sites, ...rest } = snapshot;
  const text = JSON.stringify(rest, (name, value: unknown) => {
    if (name === "codec") return null;
    return value instanceof Map ? [...value] : value;
  });
  return { rest: JSON.parse(text), sites: sites.map(({ slug }) => slug), trees: [...trees.keys()].sort() };
}

it("a changed snapshot is what building it anew gives", () => {
  fc.assert(
    fc.property(installation, installation, fc.subarray(SLUGS), (before, wanted, changed) => {
      const kept = (all: readonly Made[], isChanged: boolean) =>
        all.filter(({ site }) => changed.includes(site.slug) === isChanged);
      const after = SLUGS.flatMap((slug) =>
        [...kept(before, false), ...kept(wanted, true)].filter(({ site }) => site.slug === slug),
      );
      const records = kept(wanted, true).flatMap((one) => one.records);
      const steps = changedSnapshotSteps(
        built(before),
        changed,
        records,
        after.map(({ site }) => site),
      );
      let step = steps.next();
      while (!step.done) step = steps.next();
      expect(plain(step.value)).toEqual(plain(built(after)));
    }),
  );
});
