/** The alerts, looked for again and again, with what people did about them. */
import { setTimeout as pause } from "node:timers/promises";
import { type Alert, type AlertSources, alertSteps, databaseAlert, RelayError } from "@bold-relay/core";
import type { Clock } from "../platform/clock.ts";
import { inPieces } from "../platform/in-pieces.ts";
import type { Log } from "../platform/log.ts";
import {
  type AlertState,
  type AlertStateRecord,
  findAlertStates,
  saveAlertState,
  updateAlertStates,
} from "../store/alert-states.ts";
import type { Db, Pool } from "../store/pool.ts";

export interface AlertsDeps {
  readonly clock: Clock;
  readonly log: Log;
  readonly pool: Pool;
  readonly input: () => Promise<AlertSources>;
  /** Why the database cannot be used; null when it can. */
  readonly databaseTrouble: () => string | null;
  /** What is shown has changed. */
  readonly onChange: (open: number) => void;
  /** An alert came up, or is resolved. */
  readonly onAlert: (alert: Alert, gone: boolean) => void;
}

export interface AlertWithState extends Alert {
  readonly state: AlertStateRecord;
}

const LOOK_EVERY_MS = 2_000;
/** For how long who asks waits for a new look, ms. */
const LOOK_WITHIN_MS = 1_000;
/** A look at many channels takes long: between two of them it rests so many times as long, but not for longer than that, ms. */
const REST = 10;
const LONGEST_REST_MS = 10_000;
const NO_STATE: AlertState = { assignedTo: null, note: null, snoozedUntil: null, resolvedMark: null };

export class Alerts {
  private readonly deps: AlertsDeps;
  private states = new Map<string, AlertStateRecord>();
  private alerts: readonly Alert[] = [];
  private timer: NodeJS.Timeout | null = null;
  private looking: Promise<void> | null = null;
  private told = "";
  /** It looks again no earlier, unless it is asked, by `performance.now()`. */
  private restsUntil = 0;
  /** Shown while it lasts, and kept nowhere: there is no table to keep it in. */
  private database: Alert | null = null;

  constructor(deps: AlertsDeps) {
    this.deps = deps;
  }

  /** May be stopped and started again. */
  async start(): Promise<void> {
    this.states.clear();
    this.alerts = [];
    for (const state of await findAlertStates(this.deps.pool)) this.states.set(keyOf(state), state);
    this.timer = setInterval(() => {
      if (performance.now() >= this.restsUntil) void this.look();
    }, LOOK_EVERY_MS);
  }

  async stop(): Promise<void> {
    if (this.timer) clearInterval(this.timer);
    await this.looking;
  }

  /** Alerts that are shown: neither resolved nor snoozed. @param all those too */
  list(all: boolean): AlertWithState[] {
    const now = this.deps.clock.now();
    const { database } = this;
    const kept = this.alerts.flatMap((alert) => {
      const state = this.states.get(keyOf(alert));
      return state && (all || isShown(alert, state, now)) ? { ...alert, state } : [];
    });
    if (!database) return kept;
    const { kind, subject, since } = database;
    return [{ ...database, state: { kind, subject, firstSeen: since, ...NO_STATE } }, ...kept];
  }

  /**
   * Alerts as of now, for who asks what is open: a failure of a moment ago counts. Without a database they stay as they were.
   *
   * @param all those too that are resolved or snoozed
   */
  async current(all: boolean): Promise<AlertWithState[]> {
    const before = this.looking;
    const late = new AbortController();
    const looked = (before ?? Promise.resolve()).then(() => this.look());
    await Promise.race([looked, pause(LOOK_WITHIN_MS, undefined, { signal: late.signal }).catch(() => {})]);
    late.abort();
    return this.list(all);
  }

  /** Looks now; one look at a time. */
  look(): Promise<void> {
    if (this.looking) return this.looking;
    const startedAt = performance.now();
    this.looking = this.lookAgain()
      .catch((error: unknown) => this.deps.log.warn({ err: error }, "alerts could not be looked for"))
      .finally(() => {
        this.looking = null;
        const endedAt = performance.now();
        this.restsUntil = endedAt + Math.min(LONGEST_REST_MS, REST * (endedAt - startedAt));
        this.noteDatabase();
      });
    return this.looking;
  }

  private noteDatabase(): void {
    const trouble = this.deps.databaseTrouble();
    if (trouble === null && this.database) this.deps.onAlert(this.database, true);
    const since = this.database?.since ?? this.deps.clock.now();
    const isNew = trouble !== null && this.database === null;
    this.database = trouble === null ? null : databaseAlert(trouble, since);
    if (isNew && this.database) this.deps.onAlert(this.database, false);
    this.tell();
  }

  /** @returns the alert as it is then; null when it is not there any more */
  async change(kind: string, subject: string, change: Partial<AlertState>, db: Db): Promise<AlertWithState | null> {
    const key = keyOf({ kind, subject });
    if (this.database && key === keyOf(this.database))
      throw new RelayError("service-busy", { why: "The database cannot be used, so nothing can be noted" });
    const alert = this.alerts.find((one) => keyOf(one) === key);
    const known = this.states.get(key);
    if (!alert || !known) return null;
    const state = { ...known, ...change };
    if (!(await saveAlertState(db, kind, subject, state))) return null;
    this.states.set(key, state);
    this.tell();
    return { ...alert, state };
  }

  private async lookAgain(): Promise<void> {
    const { pool, clock } = this.deps;
    const alerts = await inPieces(alertSteps(await this.deps.input()));
    const keys = new Set(alerts.map(keyOf));
    const added = alerts.filter((alert) => !this.states.has(keyOf(alert)));
    const gone = [...this.states.values()].filter((state) => !keys.has(keyOf(state)));
    if (added.length > 0 || gone.length > 0) await updateAlertStates(pool, added, gone);
    for (const state of gone) this.states.delete(keyOf(state));
    for (const { kind, subject, since } of added) {
      const firstSeen = Math.min(since, clock.now());
      this.states.set(keyOf({ kind, subject }), { kind, subject, firstSeen, ...NO_STATE });
    }
    for (const alert of added) this.deps.onAlert(alert, false);
    for (const alert of this.alerts) if (!keys.has(keyOf(alert))) this.deps.onAlert(alert, true);
    this.alerts = alerts;
    this.tell();
  }

  private tell(): void {
    const shown = this.list(false);
    const shownNow = JSON.stringify(shown.map(({ state, mark }) => [state, mark]));
    if (shownNow === this.told) return;
    this.told = shownNow;
    this.deps.onChange(shown.length);
  }
}

function isShown(alert: Alert, { snoozedUntil, resolvedMark }: AlertStateRecord, now: number): boolean {
  return resolvedMark !== alert.mark && (snoozedUntil === null || now >= snoozedUntil);
}

function keyOf({ kind, subject }: { kind: string; subject: string }): string {
  return `${kind} ${subject}`;
}
