/** UTF-8 for codecs. `core` has no host types: these two are part of every JavaScript host we run on (WHATWG Encoding). */
declare const TextEncoder: new () => { encode(text: string): Uint8Array };
declare const TextDecoder: new (label: string, options: { fatal: boolean }) => { decode(bytes: Uint8Array): string };

/** Longest payload that is shown, bytes. */
const MOST_SHOWN = 1_000;

const encoder = new TextEncoder();
const decoder = new TextDecoder("utf-8", { fatal: true });

export function encodeText(text: string): Uint8Array {
  return encoder.encode(text);
}

/**
 * Payload bytes as text that may stand in a journal, a log and a screen: as text where they are text, else as hexadecimal.
 *
 * @example payloadText(bytes of "ON") // → "ON"
 * @example payloadText(bytes A0 01 01 A2) // → "A0 01 01 A2 (hex)"
 */
export function payloadText(bytes: Uint8Array): string {
  if (isPlainAscii(bytes)) return decodeText(bytes);
  const shown = bytes.slice(0, MOST_SHOWN);
  const isText = !shown.some((byte) => byte < 0x20 && byte !== 0x09 && byte !== 0x0a && byte !== 0x0d);
  try {
    if (isText)
      return decodeText(bytes)
        .slice(0, MOST_SHOWN)
        .replace(/\p{Cc}/gu, "\u00b7");
  } catch {
    // Not UTF-8: shown as what it is.
  }
  return `${[...shown].map((byte) => byte.toString(16).toUpperCase().padStart(2, "0")).join(" ")} (hex)`;
}

/** Nearly every payload is: there is nothing to be replaced in it. */
function isPlainAscii(bytes: Uint8Array): boolean {
  if (bytes.length > MOST_SHOWN) return false;
  for (const byte of bytes) if (byte < 0x20 || byte > 0x7e) return false;
  return true;
}

/** @throws TypeError when the bytes are not UTF-8 */
export function decodeText(bytes: Uint8Array): string {
  return decoder.decode(bytes);
}
