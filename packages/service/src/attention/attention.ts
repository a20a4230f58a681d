/** The matters that need attention, looked for again and again, with what people said of them. */
import { type AttentionSight, databaseMatter, type Matter, mattersOf, RelayError } from "@bold-relay/core";
import type { Clock } from "../clock.ts";
import type { Log } from "../log.ts";
import { type Care, type CareRecord, findCares, keepCares, saveCare } from "../store/attention.ts";
import type { Pool } from "../store/pool.ts";

export interface AttentionParts {
  readonly clock: Clock;
  readonly log: Log;
  readonly pool: Pool;
  readonly sight: () => Promise<AttentionSight>;
  /** Why the database cannot be used; null when it can. */
  readonly databaseTrouble: () => string | null;
  /** What is shown has changed. */
  readonly onChange: (open: number) => void;
  /** A matter came up, or is gone. */
  readonly onMatter: (matter: Matter, gone: boolean) => void;
}

export interface CaredMatter extends Matter {
  readonly care: CareRecord;
}

const LOOK_EVERY_MS = 2_000;
const NO_CARE: Care = { takenBy: null, note: null, mutedUntil: null, closedMark: null };

export class Attention {
  private readonly parts: AttentionParts;
  private cares = new Map<string, CareRecord>();
  private matters: readonly Matter[] = [];
  private timer: NodeJS.Timeout | null = null;
  private looking: Promise<void> | null = null;
  private told = "";
  /** Shown while it lasts, and kept nowhere: there is no table to keep it in. */
  private database: Matter | null = null;

  constructor(parts: AttentionParts) {
    this.parts = parts;
  }

  async start(): Promise<void> {
    for (const care of await findCares(this.parts.pool)) this.cares.set(keyOf(care), care);
    this.timer = setInterval(() => void this.look(), LOOK_EVERY_MS);
  }

  async stop(): Promise<void> {
    if (this.timer) clearInterval(this.timer);
    await this.looking;
  }

  /** Matters that are shown: neither closed nor muted. @param all those too */
  list(all: boolean): CaredMatter[] {
    const now = this.parts.clock.now();
    const { database } = this;
    const kept = this.matters.flatMap((matter) => {
      const care = this.cares.get(keyOf(matter));
      return care && (all || isShown(matter, care, now)) ? { ...matter, care } : [];
    });
    if (!database) return kept;
    const { kind, subject, since } = database;
    return [{ ...database, care: { kind, subject, firstSeen: since, ...NO_CARE } }, ...kept];
  }

  /** Looks now; one look at a time. */
  look(): Promise<void> {
    this.looking ??= this.lookAgain()
      .catch((error: unknown) => this.parts.log.warn({ err: error }, "what needs attention could not be looked for"))
      .finally(() => {
        this.looking = null;
        this.noteDatabase();
      });
    return this.looking;
  }

  private noteDatabase(): void {
    const trouble = this.parts.databaseTrouble();
    if (trouble === null && this.database) this.parts.onMatter(this.database, true);
    const since = this.database?.since ?? this.parts.clock.now();
    const isNew = trouble !== null && this.database === null;
    this.database = trouble === null ? null : databaseMatter(trouble, since);
    if (isNew && this.database) this.parts.onMatter(this.database, false);
    this.tell();
  }

  /** @returns the matter as it is cared for now; null when it is not there any more */
  async care(kind: string, subject: string, change: Partial<Care>): Promise<CaredMatter | null> {
    const key = keyOf({ kind, subject });
    if (this.database && key === keyOf(this.database))
      throw new RelayError("service-busy", { why: "The database cannot be used, so nothing can be noted" });
    const matter = this.matters.find((one) => keyOf(one) === key);
    const known = this.cares.get(key);
    if (!matter || !known) return null;
    const care = { ...known, ...change };
    if (!(await saveCare(this.parts.pool, kind, subject, care))) return null;
    this.cares.set(key, care);
    this.tell();
    return { ...matter, care };
  }

  private async lookAgain(): Promise<void> {
    const { pool, clock } = this.parts;
    const matters = mattersOf(await this.parts.sight());
    const keys = new Set(matters.map(keyOf));
    const added = matters.filter((matter) => !this.cares.has(keyOf(matter)));
    const gone = [...this.cares.values()].filter((care) => !keys.has(keyOf(care)));
    if (added.length > 0 || gone.length > 0) await keepCares(pool, added, gone);
    for (const care of gone) this.cares.delete(keyOf(care));
    for (const { kind, subject, since } of added) {
      const firstSeen = Math.min(since, clock.now());
      this.cares.set(keyOf({ kind, subject }), { kind, subject, firstSeen, ...NO_CARE });
    }
    for (const matter of added) this.parts.onMatter(matter, false);
    for (const matter of this.matters) if (!keys.has(keyOf(matter))) this.parts.onMatter(matter, true);
    this.matters = matters;
    this.tell();
  }

  private tell(): void {
    const shown = this.list(false);
    const state = JSON.stringify(shown.map(({ care, mark }) => [care, mark]));
    if (state === this.told) return;
    this.told = state;
    this.parts.onChange(shown.length);
  }
}

function isShown(matter: Matter, { mutedUntil, closedMark }: CareRecord, now: number): boolean {
  return closedMark !== matter.mark && (mutedUntil === null || now >= mutedUntil);
}

function keyOf({ kind, subject }: { kind: string; subject: string }): string {
  return `${kind} ${subject}`;
}
