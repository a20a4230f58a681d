/** The different texts of each hour's requests, so that a search reads only the requests that it may find. */
import { HOUR_MS, idMs, smallestIdAt } from "@bold-relay/core";
import type { Db } from "./pool.ts";
import { type Placeholder, rowSource } from "./row-source.ts";

/** The parts of a request that have words. */
const PARTS = ["asker", "inlet", "target"] as const;

interface Asked {
  readonly id: string;
  readonly asker: string;
  readonly inlet: string;
  readonly target: string;
}

interface WordRow {
  readonly hour_ms: number;
  readonly part: (typeof PARTS)[number];
  readonly words: string;
}

const WORDS = { hour_ms: "float8", part: "text", words: "text" } as const;

/** How many texts of an hour are known to be kept; beyond it some are written again, which changes nothing. */
const MOST_KNOWN = 20_000;
/** Characters that are kept in one row: an index holds no longer ones. */
const MOST_CHARACTERS = 400;
/** No search is for more characters than this. */
const MOST_SEARCHED = 100;
/** People of that name; more are so many that their requests are found soon by reading the newest. */
const MOST_ASKERS = 20;

/** What this process knows to be kept of the current hour: nearly every request has nothing new to say. */
export class KnownWords {
  private readonly known = new Set<string>();
  private hourMs = 0;

  /** What these requests say that is not known to be kept. */
  newIn(requests: readonly Asked[]): WordRow[] {
    const found = new Map<string, WordRow>();
    for (const request of requests) {
      const hour_ms = hourOf(request.id);
      for (const part of PARTS) {
        for (const words of pieces(request[part])) {
          const key = keyOf(hour_ms, part, words);
          if (!this.known.has(key)) found.set(key, { hour_ms, part, words });
        }
      }
    }
    return [...found.values()];
  }

  /** These are durable. */
  keep(rows: readonly WordRow[]): void {
    for (const { hour_ms, part, words } of rows) {
      if (hour_ms > this.hourMs || this.known.size >= MOST_KNOWN) this.known.clear();
      this.hourMs = Math.max(this.hourMs, hour_ms);
      this.known.add(keyOf(hour_ms, part, words));
    }
  }
}

/** The part of a statement that keeps them; `held` proves that the lease is held. */
export function keepWords(rows: readonly WordRow[], value: Placeholder): string {
  return `insert into asked_words (hour, part, words)
  select to_timestamp(hour_ms / 1000), part, words from ${rowSource("w", WORDS, rows, value)}, held
  on conflict do nothing`;
}

/** Where a text may be found. */
export interface Whereabouts {
  /** In requests of these people, in lower case. */
  readonly askers: readonly string[];
  /** In requests of these hours, newest first; ms since 1970. */
  readonly hours: readonly number[];
}

/**
 * @param like a pattern for `ilike`
 * @param since the smallest id that counts
 */
export async function findWords(db: Db, like: string, since: string): Promise<Whereabouts> {
  const { rows } = await db.query<{ hourMs: number; part: WordRow["part"]; words: string }>(
    `select extract(epoch from hour)::float8 * 1000 as "hourMs", part, lower(words) as words from asked_words
     where hour >= to_timestamp($1::float8 / 1000) and words ilike $2`,
    [hourOf(since), like],
  );
  const askers = new Set(rows.filter(({ part }) => part === "asker").map(({ words }) => words));
  const few = askers.size <= MOST_ASKERS;
  const hours = new Set(rows.filter(({ part }) => !few || part !== "asker").map(({ hourMs }) => hourMs));
  return { askers: few ? [...askers] : [], hours: [...hours].sort((one, other) => other - one) };
}

/** Forgets what is older than any search. */
export async function forgetOldWords(db: Db): Promise<void> {
  await db.query("delete from asked_words where hour < now() - interval '2 days'");
}

/** The smallest ids of an hour and of the next. */
export function idsOfHour(hourMs: number): { readonly from: string; readonly to: string } {
  return { from: smallestIdAt(hourMs), to: smallestIdAt(hourMs + HOUR_MS) };
}

/** Long texts in pieces, with so much of one in the next that whatever is searched for stands in one of them whole. */
function pieces(text: string): string[] {
  if (text.length <= MOST_CHARACTERS) return [text];
  // By characters, not by halves of them: a half can be no text.
  const characters = [...text];
  const all: string[] = [];
  for (let from = 0; from < characters.length; from += MOST_CHARACTERS - MOST_SEARCHED)
    all.push(characters.slice(from, from + MOST_CHARACTERS).join(""));
  return all;
}

function hourOf(id: string): number {
  return Math.floor(idMs(id) / HOUR_MS) * HOUR_MS;
}

function keyOf(hourMs: number, part: string, words: string): string {
  return `${hourMs} ${part} ${words}`;
}
