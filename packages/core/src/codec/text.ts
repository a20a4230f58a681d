/** UTF-8 for codecs. `core` has no host types: these two are part of every JavaScript host we run on (WHATWG Encoding). */
declare const TextEncoder: new () => { encode(text: string): Uint8Array };
declare const TextDecoder: new (label: string, options: { fatal: boolean }) => { decode(bytes: Uint8Array): string };

const encoder = new TextEncoder();
const decoder = new TextDecoder("utf-8", { fatal: true });

export function encodeText(text: string): Uint8Array {
  return encoder.encode(text);
}

/** @throws TypeError when the bytes are not UTF-8 */
export function decodeText(bytes: Uint8Array): string {
  return decoder.decode(bytes);
}
