/** Words and marks of a phrase, in the one way in which names are cut up as well. */

export interface Token {
  /** In small letters, as it is compared. */
  readonly text: string;
  /** Stood in quotes: a name, whatever else the word may mean. */
  readonly quoted: boolean;
}

/** Longest phrase that is read, characters. */
export const MOST_PHRASE = 500;

/**
 * An address with slashes · a colour · digits with points, commas or colons in them, of which nobody can tell the parts: "12,5", "22:30", ".5" · a
 * word with its apostrophes · a mark that means something.
 */
const PIECE =
  /[\p{L}\p{N}-]+(?:\/[\p{L}\p{N}-]+)+|#[0-9a-f]{3,6}\b|(?<![\p{L}\p{N}])[.,]\p{N}+|\p{N}+(?:[.,:]\p{N}+)*|[\p{L}\p{M}]+(?:'[\p{L}]+)*|[%°,;.?!:"&+]|(?<![\p{L}\p{N}])-(?=\p{N})/gu;

const CONTRACTED = /^(what|who|where|which|how|that|it|there)'s$/;

/**
 * Cuts a phrase into tokens.
 *
 * @example tokensOf("What's on in Wren's hall?").map(({ text }) => text) // → ["what", "is", "on", "in", "wren", "hall", "?"]
 */
export function tokensOf(phrase: string): Token[] {
  const plain = phrase
    .normalize("NFKC")
    .toLowerCase()
    .replace(/[\u2018\u2019\u02bc`\u00b4]/g, "'")
    .replace(/[“”„«»]/g, '"');
  const tokens: Token[] = [];
  let quoted = false;
  for (const [piece] of plain.matchAll(PIECE)) {
    if (piece === '"') quoted = !quoted;
    else for (const text of wordsIn(piece)) tokens.push({ text, quoted });
  }
  return tokens;
}

function wordsIn(piece: string): string[] {
  if (!piece.includes("'")) return [piece];
  const contracted = CONTRACTED.exec(piece);
  if (contracted) return [contracted[1] ?? "", "is"];
  return [piece.replace(/'s$/, "").replaceAll("'", "")];
}

/** A name as the words that it is compared by; marks in it do not count. @example nameWords("Vent, open") // → ["vent", "open"] */
export function nameWords(name: string): string[] {
  return tokensOf(name)
    .map(({ text }) => text)
    .filter((text) => /[\p{L}\p{N}]/u.test(text));
}
