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
  const time = Math.max(0, Math.floor(at)).toString(16).padStart(12, "0").slice(-12);
  const hex = (index: number) => (random[index] ?? 0).toString(16).padStart(2, "0");
  const version = (((random[0] ?? 0) & 0x0f) | 0x70).toString(16);
  const variant = (((random[2] ?? 0) & 0x3f) | 0x80).toString(16);
  return (
    `${time.slice(0, 8)}-${time.slice(8)}-${version}${hex(1)}-${variant}${hex(3)}-` +
    `${hex(4)}${hex(5)}${hex(6)}${hex(7)}${hex(8)}${hex(9)}`
  );
}
