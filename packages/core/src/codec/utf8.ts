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
    if (isText) return printable(decodeText(bytes).replace(/\p{Cc}/gu, "\u00b7"), MOST_SHOWN);
  } catch {
    // Not UTF-8: shown as what it is.
  }
  return `${[...shown].map((byte) => byte.toString(16).toUpperCase().padStart(2, "0")).join(" ")} (hex)`;
}

/**
 * Text of a device as it may stand in a journal, a log and a screen: control characters and halves of surrogate pairs are escaped, and
 * it is not cut within a character. No byte of a device may stop a record.
 *
 * @param most characters
 * @example printable("ON\0", 20) // → "ON\\x00"
 */
export function printable(text: string, most: number): string {
  const escaped = /[\p{Cc}\p{Cs}]/u.test(text) ? escapedText(text) : text;
  if (escaped.length <= most) return escaped;
  const cut = escaped.slice(0, most);
  return isHighSurrogate(cut.charCodeAt(most - 1)) ? cut.slice(0, -1) : cut;
}

function escapedText(text: string): string {
  let out = "";
  for (const character of text) {
    const code = character.codePointAt(0) ?? 0;
    if (code < 0x20 || (code >= 0x7f && code < 0xa0)) out += `\\x${code.toString(16).padStart(2, "0")}`;
    else out += code >= 0xd800 && code <= 0xdfff ? `\\u${code.toString(16)}` : character;
  }
  return out;
}

function isHighSurrogate(code: number): boolean {
  return code >= 0xd800 && code <= 0xdbff;
}

/** Nearly every payload is: there is nothing to be replaced in it. */
function isPlainAscii(bytes: Uint8Array): boolean {
  if (bytes.length > MOST_SHOWN) return false;
  for (const byte of bytes) if (byte < 0x20 || byte > 0x7e) return false;
  return true;
}

/** Every byte is a character of ISO 8859-1 (Latin-1). */
export function decodeLatin1(bytes: Uint8Array): string {
  return String.fromCharCode(...bytes);
}

/** Characters that Latin-1 does not have become a question mark. */
export function encodeLatin1(text: string): Uint8Array {
  return Uint8Array.from(
    [...text].map((character) => {
      const code = character.codePointAt(0) ?? 0;
      return code < 0x100 ? code : 0x3f;
    }),
  );
}

/** @throws TypeError when the bytes are not UTF-8 */
export function decodeText(bytes: Uint8Array): string {
  return decoder.decode(bytes);
}
