/** Every codec, by name. A new codec is its file plus its line here. */
import type { Codec } from "./codec.ts";
import { json } from "./json.ts";
import { word } from "./word.ts";

export const codecs = { json, word } satisfies Record<string, Codec>;

export type CodecName = keyof typeof codecs;
export const codecNames = Object.keys(codecs) as CodecName[];
