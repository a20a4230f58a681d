/**
 * What an instance does about the shards at its turn: takes those that nobody leads, or hands one to an instance that has too few. Each
 * decides for itself, by the same picture; the leases in the database see to it that no shard is ever led twice. Pure.
 */

export interface ShardPicture {
  readonly shard: number;
  /** The name of the instance that leads it; null: none does. */
  readonly leader: string | null;
  /** For how long nobody has led it, ms. */
  readonly freeMs: number;
  /** The instance that is to lead it, by somebody's choice; null: any. */
  readonly wanted: string | null;
}

export interface ShardTurnInput {
  /** The name of the instance whose turn it is. */
  readonly me: string;
  /** The shards that it leads, as it knows itself: a lease of the run before is none. */
  readonly held: ReadonlySet<number>;
  readonly shards: readonly ShardPicture[];
  /** The names of all instances that could lead, this one among them. */
  readonly able: readonly string[];
}

export interface ShardTurn {
  readonly claim: readonly number[];
  /** One that it hands over, and to whom. */
  readonly give: { readonly shard: number; readonly to: string } | null;
}

/** Those whose share is not full come first; after that any instance takes what is free, ms. */
const OTHERS_FIRST_MS = 200;
/** So long a free shard waits for the instance that was chosen for it, ms. */
const CHOSEN_FIRST_MS = 2_000;

/**
 * @example // two of four shards are free, and "b" leads none:
 *   shardTurn({ me: "b", held: new Set(), able: ["a", "b"], shards }).claim // → the two
 */
export function shardTurn(input: ShardTurnInput): ShardTurn {
  return { claim: claimsOf(input), give: giftOf(input) };
}

function claimsOf({ me, held, shards, able }: ShardTurnInput): number[] {
  const most = Math.ceil(shards.length / Math.max(1, able.length));
  const claim: number[] = [];
  for (const { shard, leader, freeMs, wanted } of shards) {
    if (held.has(shard)) continue;
    if (wanted !== null && wanted !== me && able.includes(wanted) && freeMs < CHOSEN_FIRST_MS) continue;
    // Its own lease of the run before: nobody else can take it before it runs out.
    const isFree = leader === null || leader === me;
    if (!isFree) continue;
    const isMine = wanted === me || leader === me || held.size + claim.length < most;
    if (isMine || freeMs >= OTHERS_FIRST_MS) claim.push(shard);
  }
  return claim;
}

function giftOf({ me, held, shards, able }: ShardTurnInput): ShardTurn["give"] {
  const chosen = shards.find(
    ({ shard, wanted }) => held.has(shard) && wanted !== null && wanted !== me && able.includes(wanted),
  );
  if (chosen?.wanted) return { shard: chosen.shard, to: chosen.wanted };
  // While some are free nobody knows what each will have in a moment.
  const isOnItsWay = ({ leader, wanted }: ShardPicture) =>
    wanted !== null && wanted !== leader && able.includes(wanted);
  if (shards.some((one) => one.leader === null || isOnItsWay(one))) return null;
  const counts = new Map(able.map((name) => [name, shards.filter(({ leader }) => leader === name).length]));
  const [poorest, fewest] = [...counts].sort((one, other) => one[1] - other[1])[0] ?? [me, held.size];
  if (poorest === me || held.size - fewest < 2) return null;
  // Only whoever has most gives: two that give at once would give too much.
  const richest = [...counts].sort((one, other) => other[1] - one[1] || (one[0] < other[0] ? -1 : 1))[0];
  if (richest?.[0] !== me) return null;
  // The first shard has more to take up than the others: it stays where it is as long as it can.
  const free = shards.filter(({ shard, wanted }) => held.has(shard) && wanted !== me).map(({ shard }) => shard);
  return free.length === 0 ? null : { shard: Math.max(...free), to: poorest };
}
