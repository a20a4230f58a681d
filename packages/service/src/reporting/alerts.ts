/** The matters that need attention, looked for again and again, with what people said of them. */
import { type Alert, type AlertInput, alertsOf, databaseAlert, RelayError } from "@bold-relay/core";
import type { Clock } from "../platform/clock.ts";
import type { Log } from "../platform/log.ts";
import {
  type AlertState,
  type AlertStateRecord,
  findAlertStates,
  saveAlertState,
  updateAlertStates,
} from "../store/attention.ts";
import type { Pool } from "../store/pool.ts";

export interface AlertsDeps {
  readonly clock: Clock;
  readonly log: Log;
  readonly pool: Pool;
  readonly input: () => Promise<AlertInput>;
  /** Why the database cannot be used; null when it can. */
  readonly databaseTrouble: () => string | null;
  /** What is shown has changed. */
  readonly onChange: (open: number) => void;
  /** A matter came up, or is gone. */
  readonly onAlert: (alert: Alert, gone: boolean) => void;
}

export interface AlertWithState extends Alert {
  readonly care: AlertStateRecord;
}

const LOOK_EVERY_MS = 2_000;
const NO_CARE: AlertState = { takenBy: null, note: null, mutedUntil: null, closedMark: null };

export class Alerts {
  private readonly deps: AlertsDeps;
  private states = new Map<string, AlertStateRecord>();
  private alerts: readonly Alert[] = [];
  private timer: NodeJS.Timeout | null = null;
  private looking: Promise<void> | null = null;
  private told = "";
  /** Shown while it lasts, and kept nowhere: there is no table to keep it in. */
  private database: Alert | null = null;

  constructor(deps: AlertsDeps) {
    this.deps = deps;
  }

  async start(): Promise<void> {
    for (const care of await findAlertStates(this.deps.pool)) this.states.set(keyOf(care), care);
    this.timer = setInterval(() => void this.look(), LOOK_EVERY_MS);
  }

  async stop(): Promise<void> {
    if (this.timer) clearInterval(this.timer);
    await this.looking;
  }

  /** Matters that are shown: neither closed nor muted. @param all those too */
  list(all: boolean): AlertWithState[] {
    const now = this.deps.clock.now();
    const { database } = this;
    const kept = this.alerts.flatMap((alert) => {
      const care = this.states.get(keyOf(alert));
      return care && (all || isShown(alert, care, now)) ? { ...alert, care } : [];
    });
    if (!database) return kept;
    const { kind, subject, since } = database;
    return [{ ...database, care: { kind, subject, firstSeen: since, ...NO_CARE } }, ...kept];
  }

  /** Looks now; one look at a time. */
  look(): Promise<void> {
    this.looking ??= this.lookAgain()
      .catch((error: unknown) => this.deps.log.warn({ err: error }, "what needs attention could not be looked for"))
      .finally(() => {
        this.looking = null;
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

  /** @returns the matter as it is cared for now; null when it is not there any more */
  async care(kind: string, subject: string, change: Partial<AlertState>): Promise<AlertWithState | null> {
    const key = keyOf({ kind, subject });
    if (this.database && key === keyOf(this.database))
      throw new RelayError("service-busy", { why: "The database cannot be used, so nothing can be noted" });
    const alert = this.alerts.find((one) => keyOf(one) === key);
    const known = this.states.get(key);
    if (!alert || !known) return null;
    const care = { ...known, ...change };
    if (!(await saveAlertState(this.deps.pool, kind, subject, care))) return null;
    this.states.set(key, care);
    this.tell();
    return { ...alert, care };
  }

  private async lookAgain(): Promise<void> {
    const { pool, clock } = this.deps;
    const alerts = alertsOf(await this.deps.input());
    const keys = new Set(alerts.map(keyOf));
    const added = alerts.filter((alert) => !this.states.has(keyOf(alert)));
    const gone = [...this.states.values()].filter((care) => !keys.has(keyOf(care)));
    if (added.length > 0 || gone.length > 0) await updateAlertStates(pool, added, gone);
    for (const care of gone) this.states.delete(keyOf(care));
    for (const { kind, subject, since } of added) {
      const firstSeen = Math.min(since, clock.now());
      this.states.set(keyOf({ kind, subject }), { kind, subject, firstSeen, ...NO_CARE });
    }
    for (const alert of added) this.deps.onAlert(alert, false);
    for (const alert of this.alerts) if (!keys.has(keyOf(alert))) this.deps.onAlert(alert, true);
    this.alerts = alerts;
    this.tell();
  }

  private tell(): void {
    const shown = this.list(false);
    const state = JSON.stringify(shown.map(({ care, mark }) => [care, mark]));
    if (state === this.told) return;
    this.told = state;
    this.deps.onChange(shown.length);
  }
}

function isShown(alert: Alert, { mutedUntil, closedMark }: AlertStateRecord, now: number): boolean {
  return closedMark !== alert.mark && (mutedUntil === null || now >= mutedUntil);
}

function keyOf({ kind, subject }: { kind: string; subject: string }): string {
  return `${kind} ${subject}`;
}
