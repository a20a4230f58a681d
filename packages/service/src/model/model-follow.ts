/** Takes on what other instances, or programs beside the service, have changed of the sites. */
import { changedSnapshotSteps } from "@bold-relay/core";
import { inPieces } from "../platform/in-pieces.ts";
import type { InTurn } from "../platform/in-turn.ts";
import type { Board } from "../state/board.ts";
import { findChannelsOf, findSites } from "../store/model.ts";
import { findModelVersions, type ModelVersions } from "../store/model-versions.ts";
import type { Pool } from "../store/pool.ts";
import type { AdoptModel } from "./adopt-model.ts";

export interface ModelFollowDeps {
  readonly pool: Pool;
  readonly board: Board;
  readonly adopt: AdoptModel;
  readonly inTurn: InTurn;
}

export class ModelFollow {
  private readonly deps: ModelFollowDeps;
  private known: ModelVersions;

  /** @param known as they were when the board's model was read, or before */
  constructor(deps: ModelFollowDeps, known: ModelVersions) {
    this.deps = deps;
    this.known = known;
  }

  /** What has changed since is read, and taken on. */
  follow(): Promise<void> {
    const { pool, board, adopt, inTurn } = this.deps;
    return inTurn(async () => {
      const now = await findModelVersions(pool);
      const changed = this.changedSince(now);
      const moved = this.movedSince(now, new Set(changed));
      if (changed.length > 0) {
        const [records, sites] = [await findChannelsOf(pool, changed), await findSites(pool)];
        const all = [...changed, ...moved.keys()];
        adopt.changed(await inPieces(changedSnapshotSteps(board.snapshot, changed, records, sites)), all);
      } else if (moved.size > 0) adopt.moved(moved);
      this.known = now;
    });
  }

  /** The sites that are otherwise: themselves, or a profile that a device of theirs has. */
  private changedSince(now: ModelVersions): string[] {
    const differing = (one: ReadonlyMap<string, string>, other: ReadonlyMap<string, string>) =>
      new Set([...new Set([...one.keys(), ...other.keys()])].filter((slug) => one.get(slug) !== other.get(slug)));
    const versionsOf = ({ sites: all }: ModelVersions) =>
      new Map([...all].map(([slug, { version }]) => [slug, version]));
    const sites = differing(versionsOf(this.known), versionsOf(now));
    const profiles = differing(this.known.profiles, now.profiles);
    if (profiles.size > 0)
      for (const { site, profile } of this.deps.board.snapshot.channels)
        if (profiles.has(profile.slug)) sites.add(site.slug);
    return [...sites];
  }

  /** The sites that are as they were, but in another shard. */
  private movedSince({ sites }: ModelVersions, changed: ReadonlySet<string>): Map<string, number> {
    const isMoved = (slug: string, shard: number) => !changed.has(slug) && this.known.sites.get(slug)?.shard !== shard;
    return new Map(
      [...sites].flatMap(([slug, { shard }]): [string, number][] => (isMoved(slug, shard) ? [[slug, shard]] : [])),
    );
  }
}
