/** The map of this installation: put together when it is asked for, and kept as long as what it is made of stays. */
import {
  type ChannelEntry,
  type InletDescription,
  isOn,
  type MapInlet,
  type MapLink,
  type MapMember,
  mapSteps,
  mapWithin,
  type RelayMap,
  type Snapshot,
} from "@bold-relay/core";
import type { InletRegistry } from "../inlets/registry.ts";
import { inPieces } from "../platform/in-pieces.ts";
import type { Board } from "../state/board.ts";
import type { Lockouts } from "../state/lockouts.ts";
import { findAllLinks } from "../store/inlet-links.ts";
import { findKeys, type KeyRecord } from "../store/keys.ts";
import type { Pool } from "../store/pool.ts";
import { findTeam } from "../store/team.ts";

export interface MapReportDeps {
  readonly pool: Pool;
  readonly board: Board;
  readonly inlets: InletRegistry;
  readonly lockouts: Lockouts;
}

/** The map as somebody may see it. */
export interface SeenMap {
  readonly snapshot: Snapshot;
  readonly map: RelayMap;
  /** With what the caller may not see: only ever counted. */
  readonly whole: RelayMap;
  readonly inlets: readonly InletDescription[];
}

interface Sources {
  readonly members: readonly MapMember[];
  readonly inlets: readonly MapInlet[];
  readonly links: readonly MapLink[];
}

export class MapReport {
  private readonly deps: MapReportDeps;
  private known: { readonly snapshot: Snapshot; readonly key: string; readonly map: Promise<RelayMap> } | null = null;

  constructor(deps: MapReportDeps) {
    this.deps = deps;
  }

  /** See `mapWithin`. */
  async seenFrom(sites: readonly string[] | null, built: readonly string[] | null): Promise<SeenMap> {
    const { snapshot } = this.deps.board;
    const sources = await this.sources();
    const whole = await this.mapOf(snapshot, sources);
    const inlets = sources.inlets
      .map(({ inlet }) => inlet)
      .filter(({ site }) => sites === null || (site !== null && sites.includes(site)));
    return { snapshot, map: mapWithin(whole, sites, built), whole, inlets };
  }

  /** What keeps a request from switching a channel just now, in words. */
  obstaclesOf(channel: ChannelEntry): string[] {
    const { board, lockouts } = this.deps;
    const lockout = lockouts.of(channel.id);
    const offline = board.presenceOf(channel.device.address)?.up === false;
    return [
      ...(lockout ? [`Locked out by ${lockout.holder}${lockout.reason === null ? "" : `: ${lockout.reason}`}.`] : []),
      ...(offline ? [`The device ${channel.device.address} is offline.`] : []),
      ...this.interlocksOf(channel),
    ];
  }

  private interlocksOf({ id }: ChannelEntry): string[] {
    const { board } = this.deps;
    return (board.snapshot.interlocks.get(id) ?? []).flatMap(({ name, channels, meets }) =>
      channels.flatMap((partner) => {
        const entry = board.snapshot.byId.get(partner);
        if (partner === id || !entry || isOff(board, partner)) return [];
        const done = meets === "refuse" ? "requests are refused" : "it is switched off first";
        return [`Interlock “${name}”: ${entry.name} is on or not known, ${done}.`];
      }),
    );
  }

  private async sources(): Promise<Sources> {
    const { pool, inlets } = this.deps;
    const [team, keys, links] = await Promise.all([findTeam(pool), findKeys(pool), findAllLinks(pool)]);
    return {
      members: team.map(({ id, name, standing }) => ({
        id,
        name,
        standing,
        keys: keys.filter(({ memberId }) => memberId === id).map(limitsOf),
      })),
      inlets: inlets.all.map(({ record: { inlet, secret } }) => ({
        inlet,
        keys: keys.filter((key) => key.inlet === inlet.slug).map(limitsOf),
        signed: secret !== null,
      })),
      links,
    };
  }

  /** Many may ask at once: it is made once. */
  private mapOf(snapshot: Snapshot, sources: Sources): Promise<RelayMap> {
    const key = JSON.stringify(sources);
    if (this.known?.snapshot === snapshot && this.known.key === key) return this.known.map;
    const map = inPieces(mapSteps({ snapshot, ...sources }));
    this.known = { snapshot, key, map };
    return map;
  }
}

function limitsOf({ name, expiresAt, most, sites }: KeyRecord) {
  return { name, expiresAt, most, sites };
}

/** Nobody knows counts as on. */
function isOff(board: Board, channel: ChannelEntry["id"]): boolean {
  const known = board.knownOf(channel);
  return known !== null && !isOn(known);
}
