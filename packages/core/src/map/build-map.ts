/** Puts the map together: from descriptions alone, without a look at any state. */
import type { InletDescription } from "../inlet/model.ts";
import type { Snapshot } from "../site/snapshot.ts";
import { holdersOf, type MapInlet, type MapMember, memberAskers } from "./askers.ts";
import { type CatchFound, inletCatches, type MapLink } from "./catches.ts";
import type { MapAsker, MapCatch, RelayMap } from "./element.ts";
import { ruleCatches } from "./rules.ts";
import { TargetFinder, takesCommands } from "./target-finder.ts";

export interface MapInput {
  readonly snapshot: Snapshot;
  readonly inlets: readonly MapInlet[];
  readonly members: readonly MapMember[];
  readonly links: readonly MapLink[];
}

export function buildMap(input: MapInput): RelayMap {
  return atOnce(mapSteps(input));
}

/** See `reachSteps`. */
export function buildReach(snapshot: Snapshot, inlets: readonly InletDescription[]): RelayMap {
  return atOnce(reachSteps(snapshot, inlets));
}

function atOnce(steps: Iterator<void, RelayMap>): RelayMap {
  for (;;) {
    const { done, value } = steps.next();
    if (done) return value;
  }
}

/** The same in small steps, for whoever has others to serve meanwhile: 5 000 routes take some 300 ms. */
export function* mapSteps({ snapshot, inlets, members, links }: MapInput): Generator<void, RelayMap> {
  const finder = new TargetFinder(snapshot);
  const channels = snapshot.channels.filter(takesCommands);
  const found: CatchFound[] = [];
  for (const inlet of inlets) {
    found.push(...inletCatches(inlet, links, snapshot, finder));
    yield;
  }
  const catches = [
    ...memberCatches(snapshot, members, finder),
    ...found.map(({ caught }) => caught),
    ...ruleCatches(snapshot, channels, finder),
  ];
  const askers = new Map<string, MapAsker>();
  for (const { askers: all } of catches)
    for (const asker of all) if (!askers.has(asker.id)) askers.set(asker.id, asker);
  return {
    inlets: new Map(inlets.map(({ inlet }) => [inlet.slug, inlet])),
    askers: [...askers.values()],
    catches,
    targets: finder.targets,
    channels,
    lost: found.flatMap(({ caught, lost }) => lost.map((target) => ({ catch: caught, target }))),
  };
}

/** What inlets and rules reach, whoever may ask: to see what a change of descriptions means. */
export function* reachSteps(snapshot: Snapshot, inlets: readonly InletDescription[]): Generator<void, RelayMap> {
  const plain = inlets.map((inlet): MapInlet => ({ inlet, keys: [], signed: false }));
  return yield* mapSteps({ snapshot, inlets: plain, members: [], links: [] });
}

/** Per site, what members may do there without any inlet. */
function memberCatches(snapshot: Snapshot, members: readonly MapMember[], finder: TargetFinder): MapCatch[] {
  const all = memberAskers(members);
  return snapshot.sites.flatMap(({ slug, name }) => {
    const reaches = finder.everything([slug]);
    const of = (kind: "right" | "wire", title: string, note: string, askers: readonly MapAsker[]): MapCatch[] =>
      askers.length === 0
        ? []
        : [
            {
              id: `${kind}:${slug}`,
              kind,
              name: title,
              note,
              inlet: null,
              site: slug,
              route: null,
              topic: null,
              way: null,
              paused: false,
              askers,
              reaches,
            },
          ];
    return [
      ...of("right", `Members at ${name}`, "console, app, command line, API", holdersOf("switch", slug, all)),
      ...of("wire", `By hand on the wire at ${name}`, "publishing on command topics", holdersOf("build", slug, all)),
    ];
  });
}
