/** How inlets do. Where several instances lead, something may come in at each of them, and one of them holds an inlet's connection. */
import type { InletInstance } from "./registry.ts";

export interface InletHealth {
  /** The identifier of the inlet. */
  readonly slug: string;
  /** Whether it holds its connection; null: it needs none. */
  readonly up: boolean | null;
  readonly trouble: string | null;
  /** When arrivals were not understood, ms since 1970, oldest first. */
  readonly notUnderstood: readonly number[];
  /** When it last refused what went round in circles, and what was beyond its limit, ms since 1970. */
  readonly circledAt: number | null;
  readonly floodedAt: number | null;
}

/** At this instance. @param since of what was not understood, ms since 1970 */
export function healthHere(inlets: readonly InletInstance[], since: number): InletHealth[] {
  return inlets.map(({ record, handler, own }) => ({
    slug: record.inlet.slug,
    up: own?.health.up ?? null,
    trouble: own?.health.trouble ?? null,
    notUnderstood: handler.notUnderstoodSince(since),
    circledAt: handler.circledAt,
    floodedAt: handler.floodedAt,
  }));
}

/** At all of them. @param parts what each instance has found */
export function healthOfAll(parts: readonly (readonly InletHealth[])[]): ReadonlyMap<string, InletHealth> {
  const all = new Map<string, InletHealth>();
  for (const one of parts.flat()) {
    const known = all.get(one.slug);
    all.set(one.slug, known ? joined(known, one) : one);
  }
  return all;
}

function joined(one: InletHealth, other: InletHealth): InletHealth {
  const holds = other.up === false || one.up === null ? other : one;
  return {
    slug: one.slug,
    up: holds.up,
    trouble: holds.trouble,
    notUnderstood: [...one.notUnderstood, ...other.notUnderstood].sort((before, after) => before - after),
    circledAt: latest(one.circledAt, other.circledAt),
    floodedAt: latest(one.floodedAt, other.floodedAt),
  };
}

function latest(one: number | null, other: number | null): number | null {
  return one === null || other === null ? (one ?? other) : Math.max(one, other);
}
