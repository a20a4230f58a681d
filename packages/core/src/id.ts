/** Branded identifiers: a request's id can never be passed where a command's is meant. */

declare const brand: unique symbol;
type Branded<Base, Name extends string> = Base & { readonly [brand]: Name };

/** UUIDv7 (RFC 9562) of one arrival. */
export type RequestId = Branded<string, "RequestId">;
/** UUIDv7 (RFC 9562) of one command; travels to the device as `id`. */
export type CommandId = Branded<string, "CommandId">;
/** The journal's number of a channel: it stays when the channel is renamed or its device replaced. */
export type ChannelId = Branded<number, "ChannelId">;

const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/;

/** Whether a text has the form of a lower-case UUID, and so may be used as an id in a query. */
export function isUuid(text: string): boolean {
  return UUID.test(text);
}

/**
 * Makes a UUIDv7 (RFC 9562, section 5.7) from its two sources, both handed in.
 *
 * @param at wall-clock time in ms since 1970, 48 bits of which are used
 * @param random at least 10 random bytes
 */
export function uuidV7(at: number, random: Uint8Array): string {
  const version = HEX[((random[0] ?? 0) & 0x0f) | 0x70] ?? "";
  const variant = HEX[((random[2] ?? 0) & 0x3f) | 0x80] ?? "";
  const hex = (index: number) => HEX[random[index] ?? 0] ?? "";
  return (
    `${timeHalf(at)}-${version}${hex(1)}-${variant}${hex(3)}-` +
    `${hex(4)}${hex(5)}${hex(6)}${hex(7)}${hex(8)}${hex(9)}`
  );
}

/** The id before all that are made from a moment on, ms since 1970: for lists and counts since then. */
export function smallestIdAt(at: number): string {
  return uuidV7(at, NOTHING_RANDOM);
}

/** The moment that a UUIDv7 holds, ms since 1970. */
export function idMs(id: string): number {
  return Number.parseInt(`${id.slice(0, 8)}${id.slice(9, 13)}`, 16);
}

const NOTHING_RANDOM = new Uint8Array(10);

/** Two digits for each byte. */
const HEX = Array.from({ length: 256 }, (_, byte) => byte.toString(16).padStart(2, "0"));

/** The first 48 bits, as they stand in the id. */
function timeHalf(at: number): string {
  const ms = Math.max(0, Math.floor(at));
  const high = Math.floor(ms / 0x1_0000) % 0x1_0000_0000;
  const byte = (bits: number) => HEX[bits & 0xff] ?? "";
  const [a, b, c, d] = [byte(high >>> 24), byte(high >>> 16), byte(high >>> 8), byte(high)];
  return `${a}${b}${c}${d}-${byte(ms >>> 8)}${byte(ms)}`;
}

/**
 * What stands for an id where a device echoes short numbers only: its last four digits, 0 to 65 535. Of the commands of a channel that are
 * open at a time no two have the same, as good as surely; one that has ended counts for nothing.
 */
export function shortNumber(id: CommandId): number {
  return Number.parseInt(id.slice(-4), 16);
}
