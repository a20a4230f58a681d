/**
 * Filters that cover the same topics, none of them covered twice: where two overlap the broker may hand a message over
 * twice (MQTT 5, 3.3.4), and an answer without a name would count for two commands.
 */
import { covers, firstLevel, overlap } from "./filter.ts";

/**
 * Work grows with the number of filters and topics, not with its square: filters are compared only with those that begin alike.
 *
 * @param filters as they are wanted
 * @param topics that must be covered as before where a filter has to go; asked for only then
 * @example disjointFilters(["+/b", "a/+"], () => ["a/b", "a/c", "d/b"]) // → ["+/b", "a/c"]
 */
export function disjointFilters(filters: readonly string[], topics: () => readonly string[]): string[] {
  // What has no wildcard is covered by one or not: it never makes one go.
  const wide = filters.filter(isWide).sort();
  const exact = filters.filter((filter) => !isWide(filter));
  const kept = new FilterIndex();
  const dropped = new FilterIndex();
  for (const filter of wide) (kept.overlaps(filter) ? dropped : kept).add(filter);
  const rest = [...exact, ...(dropped.size === 0 ? [] : topics().filter((topic) => dropped.covers(topic)))];
  return [...kept.all, ...[...new Set(rest)].filter((topic) => !kept.covers(topic))];
}

function isWide(filter: string): boolean {
  return filter.includes("+") || filter.includes("#");
}

/** Filters with wildcards, by their first level. */
class FilterIndex {
  readonly all: string[] = [];
  private readonly byFirst = new Map<string, string[]>();

  get size(): number {
    return this.all.length;
  }

  add(filter: string): void {
    this.all.push(filter);
    const first = firstLevel(filter);
    const alike = this.byFirst.get(first);
    if (alike) alike.push(filter);
    else this.byFirst.set(first, [filter]);
  }

  covers(topic: string): boolean {
    return this.beginningLike(firstLevel(topic)).some((filter) => covers(filter, topic));
  }

  overlaps(filter: string): boolean {
    const first = firstLevel(filter);
    const alike = first === "+" || first === "#" ? this.all : this.beginningLike(first);
    return alike.some((one) => overlap(one, filter));
  }

  private beginningLike(first: string): string[] {
    return [first, "+", "#"].flatMap((level) => this.byFirst.get(level) ?? []);
  }
}
