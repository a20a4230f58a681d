/**
 * Sites and profiles, changed while the service runs. A change is checked, written in one transaction and taken on at
 * once: lanes go on, commands that are open keep the form in which they were asked. What would pull the ground from
 * under them (a channel that goes, a board that answers otherwise) waits until they are over.
 */
import {
  type ChannelEntry,
  changedSnapshotSteps,
  type Described,
  type Finding,
  type Profile,
  RelayError,
  rewired,
} from "@bold-relay/core";
import type { AuditLog } from "../auth/audit-log.ts";
import type { Admitted } from "../auth/caller.ts";
import { whilePermitted } from "../auth/still-permitted.ts";
import type { Deadlines } from "../delivery/deadlines.ts";
import type { LaneRunner } from "../delivery/lane-runner.ts";
import { inPieces } from "../platform/in-pieces.ts";
import type { InTurn } from "../platform/in-turn.ts";
import type { Board } from "../state/board.ts";
import type { Lockouts } from "../state/lockouts.ts";
import { deleteProfile, deleteSite } from "../store/delete-model.ts";
import { requireLease } from "../store/leases.ts";
import { findActiveLockouts, type LockoutRecord, type LockoutTarget } from "../store/lockouts.ts";
import { findChannelsOf, findSites, savePrepared, saveProfile } from "../store/model.ts";
import type { Db, Pool } from "../store/pool.ts";
import type { AdoptModel } from "./adopt-model.ts";
import type { SitePlan, SiteSource } from "./check-site.ts";
import type { CheckCaller, CheckedProfile, DescriptionChecker } from "./description-checker.ts";
import { requireTopicsRest, TopicsChanged } from "./topic-registry.ts";

/** How often a description is checked when others save meanwhile. */
const MOST_CHECKS = 3;

export interface ModelReloadDeps {
  readonly pool: Pool;
  /** Proves that this instance holds the lanes of sites. @throws RelayError while it does not */
  readonly epochsOf: (sites: readonly string[]) => readonly number[];
  readonly board: Board;
  readonly adopt: AdoptModel;
  /** One change at a time: each is checked against what the one before it made. */
  readonly inTurn: InTurn;
  readonly lanes: Pick<LaneRunner, "openOf">;
  readonly lockouts: Lockouts;
  readonly deadlines: Deadlines;
  readonly audit: AuditLog;
  readonly checker: DescriptionChecker;
}

export class ModelReload {
  private readonly deps: ModelReloadDeps;

  constructor(deps: ModelReloadDeps) {
    this.deps = deps;
  }

  /**
   * Changes nothing.
   *
   * @param caller whose sites alone are named in findings
   * @throws RelayError bad-json, bad-request, depended-on or not-found
   */
  async plan(slug: string, source: SiteSource, caller: Admitted): Promise<SitePlan> {
    return (await this.deps.checker.site(slug, source, caller)).plan;
  }

  /**
   * Takes a description on, or a change of one.
   *
   * @param version that it was made from; null: whatever it is
   * @throws RelayError bad-json, bad-request, depended-on, not-found, site-wrong, changed-meanwhile or in-use; then nothing has changed
   */
  saveSite(slug: string, source: SiteSource, version: number | null, actor: Admitted): Promise<SitePlan> {
    return this.deps.inTurn(async () => {
      return this.untilTopicsRest(() => this.checkAndSave(slug, source, version, actor));
    });
  }

  private async checkAndSave(
    slug: string,
    source: SiteSource,
    version: number | null,
    actor: Admitted,
  ): Promise<SitePlan> {
    const { plan, prepared, topics } = await this.deps.checker.site(slug, source, actor);
    refuseWrong(plan.findings);
    if (plan.changes.length === 0 && (version === null || version === plan.version)) return plan;
    // An edit was made of what there was: nothing may have come between.
    const madeFrom = version ?? ("edit" in source ? plan.version : null);
    const saved = await this.take(
      actor,
      async (db) => {
        await requireTopicsRest(db, topics);
        const next = await savePrepared(db, prepared, actor.name, madeFrom);
        const after = { version: next, changes: plan.changes.slice(0, 200) };
        const before = { version: plan.version };
        await this.deps.audit.record({ actor, action: "site changed", object: slug, before, after }, db);
        return next;
      },
      [slug],
    );
    return { ...plan, version: saved };
  }

  /**
   * Checks and saves again where somebody else has saved topics between the two.
   *
   * @throws RelayError service-busy when that goes on
   */
  private async untilTopicsRest<Result>(save: () => Promise<Result>): Promise<Result> {
    for (let left = MOST_CHECKS; left > 0; left -= 1) {
      try {
        return await save();
      } catch (error) {
        if (!(error instanceof TopicsChanged)) throw error;
      }
    }
    throw new RelayError("service-busy", { why: "Sites, inlets and notifications are being changed by others" });
  }

  /**
   * Deletes a site. What happened there stays in log, history and statistics.
   *
   * @throws RelayError not-found, changed-meanwhile, depended-on or in-use; then nothing has changed
   */
  deleteSite(slug: string, version: number | null, actor: Admitted): Promise<void> {
    return this.deps.inTurn(() =>
      this.take(
        actor,
        async (db) => {
          await deleteSite(db, slug, version);
          await this.deps.audit.record({ actor, action: "site deleted", object: slug }, db);
        },
        [slug],
      ),
    );
  }

  /** @throws RelayError not-found, changed-meanwhile, or depended-on while devices use it */
  deleteProfile(slug: string, version: number | null, actor: Admitted): Promise<void> {
    return this.deps.inTurn(() => {
      const using = this.deps.board.snapshot.channels.filter((one) => one.profile.slug === slug);
      const users = [...new Set(using.map(({ device }) => device.address))];
      return this.take(
        actor,
        async (db) => {
          await deleteProfile(db, slug, users, version);
          await this.deps.audit.record({ actor, action: "profile deleted", object: slug }, db);
        },
        [],
      );
    });
  }

  /** What would be wrong or doubtful at the sites whose devices use it. */
  async checkProfile(profile: Profile, caller: CheckCaller): Promise<Finding[]> {
    return (await this.checkedProfile(profile, caller)).findings;
  }

  private async checkedProfile(profile: Profile, caller: CheckCaller): Promise<CheckedProfile> {
    const sites = this.sitesUsing(profile.slug);
    return sites.length === 0 ? { findings: [], topics: null } : this.deps.checker.profile(profile, sites, caller);
  }

  private sitesUsing(profile: string): string[] {
    const using = this.deps.board.snapshot.channels.filter((one) => one.profile.slug === profile);
    return [...new Set(using.map(({ site }) => site.slug))];
  }

  /** @throws RelayError changed-meanwhile, in-use, or site-wrong when a device that uses it could not be as it is described any more */
  saveProfile(profile: Profile, version: number | null, actor: Admitted): Promise<number> {
    const save = async () => {
      const sites = this.sitesUsing(profile.slug);
      const { findings, topics } = await this.checkedProfile(profile, actor);
      refuseWrong(findings);
      return this.take(
        actor,
        async (db) => {
          if (topics !== null) await requireTopicsRest(db, topics);
          const saved = await saveProfile(db, profile, actor.name, version);
          const { slug: object } = profile;
          await this.deps.audit.record({ actor, action: "profile changed", object, after: profile }, db);
          return saved;
        },
        sites,
      );
    };
    return this.deps.inTurn(() => this.untilTopicsRest(save));
  }

  /** Writes, and takes the new picture on if nothing that is open would lose its ground. `sites` are all that it changes. */
  private async take<Result>(
    actor: Admitted,
    write: (db: Db) => Promise<Result>,
    sites: readonly string[],
  ): Promise<Result> {
    const { pool, epochsOf, board, adopt } = this.deps;
    const { result, snapshot } = await whilePermitted(pool, actor, async (db) => {
      for (const epoch of epochsOf(sites)) await requireLease(db, epoch);
      const before = await findChannelsOf(db, sites);
      const written = await write(db);
      const after = await findChannelsOf(db, sites);
      const next = await inPieces(changedSnapshotSteps(board.snapshot, sites, after, await findSites(db)));
      const locked = await findActiveLockouts(db);
      // Last, and not before: what is locked out or requested until this moment counts.
      this.refuseBusy({ snapshot: board.snapshot, records: before }, { snapshot: next, records: after }, locked);
      return { result: written, snapshot: next };
    });
    adopt.changed(snapshot, sites);
    return result;
  }

  /**
   * What is written for a channel, and what is heard of it, stays as it is while a command, a deadline or a lock-out of it is open: the
   * output that these are about must not go by another name meanwhile.
   *
   * @throws RelayError in-use
   */
  private refuseBusy(before: Described, after: Described, locked: readonly LockoutRecord[]): void {
    const reasons = new Map<ChannelEntry, string>();
    for (const channel of before.snapshot.byId.values()) {
      const reason = this.busyWith(channel, locked);
      if (reason !== null) reasons.set(channel, reason);
    }
    const [first] = rewired([...reasons.keys()], before, after);
    if (!first) return;
    const { channel, change } = first;
    const what = `${channel.address} would ${change}`;
    throw new RelayError("in-use", { what, why: reasons.get(channel) ?? "it is busy" });
  }

  private busyWith(channel: ChannelEntry, locked: readonly LockoutRecord[]): string | null {
    const { lanes, board, deadlines, lockouts } = this.deps;
    // Of a site that another instance looks after the board has what that tells.
    if (lanes.openOf(channel.id) !== null || board.openSeqOf(channel.id) > 0) return "a command of it is open";
    if (deadlines.dueAt(channel.id) !== null) return "it is still to go off by itself";
    const holder = lockouts.of(channel.id)?.holder ?? locked.find((one) => isOf(one, channel))?.holder;
    return holder === undefined ? null : `${holder} has locked it out`;
  }
}

function isOf(target: LockoutTarget, { id, device }: ChannelEntry): boolean {
  return "deviceId" in target ? target.deviceId === device.id : target.channelId === id;
}

/** @throws RelayError site-wrong */
function refuseWrong(findings: readonly Finding[]): void {
  const wrong = findings.filter(({ level }) => level === "wrong");
  if (wrong.length === 0) return;
  const shown = wrong.slice(0, 10).map(({ at, text }) => `${at} ${text}`);
  const more = wrong.length > shown.length ? ` And ${wrong.length - shown.length} more.` : "";
  throw new RelayError("site-wrong", { why: `${shown.join(" ")}${more}` });
}
