/** Names that look the same to people, after "Confusable Detection" of Unicode Technical Standard 39, section 4. */

/** Letters of other alphabets that are drawn like Latin ones, and digits and letters that many fonts draw alike. */
const DRAWN_ALIKE: Readonly<Record<string, string>> = {
  ...letters("АВЕЅІЈКМНОРСТУХ", "abesijkmhopctyx"),
  ...letters("авеѕіјкмнорстухһԁԛԝ", "abesijkmhopctyxhdqw"),
  ...letters("ΑΒΕΖΗΙΚΜΝΟΡΤΥΧ", "abezhikmnoptyx"),
  ...letters("αεικνορτυχγϲϳ", "aeikvoptuxyci"),
  ...letters("օսոհցզ", "ounhgq"),
  ...letters("10|!ıIl", "ioiiiii"),
};

function letters(from: string, to: string): Record<string, string> {
  const drawn = [...to];
  return Object.fromEntries([...from].map((letter, place) => [letter, drawn[place] ?? letter]));
}

/**
 * What a name looks like: two names of one look are one to their readers.
 *
 * @example nameLook("Ines") === nameLook("lnеs") // → true: a small L, and a Cyrillic е
 */
export function nameLook(name: string): string {
  // Accents stay: Ines and Inès are two people.
  const drawn = [...name.normalize("NFKC")].map((letter) => DRAWN_ALIKE[letter] ?? letter.toLowerCase()).join("");
  return drawn
    .replaceAll("rn", "m")
    .replaceAll("vv", "w")
    .replace(/[\s.'’_-]+/gu, "");
}
