/**
 * `npm run fonts`: cuts the letters that every page needs out of each face, into fonts/. They are on the way to the first screen; the
 * rest of the alphabet is fetched when a name needs it (src/fonts.css).
 */
import { mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import subsetFont from "subset-font";

/** ASCII, and the signs that the console itself writes. As in `unicode-range` of src/fonts.css. */
const ASCII = String.fromCodePoint(...Array.from({ length: 95 }, (_, index) => index + 32));
const SIGNS = "\u00a0°±·×÷–—‘’“”•…→−≤≥";

const FACES = [
  ["barlow", 400],
  ["barlow", 500],
  ["barlow", 600],
  ["barlow-semi-condensed", 500],
  ["barlow-semi-condensed", 600],
  ["b612-mono", 400],
];

const folder = new URL("../fonts/", import.meta.url);
mkdirSync(folder, { recursive: true });
for (const [face, weight] of FACES) {
  const source = import.meta.resolve(`@fontsource/${face}/files/${face}-latin-${weight}-normal.woff2`);
  const cut = await subsetFont(readFileSync(fileURLToPath(source)), ASCII + SIGNS, { targetFormat: "woff2" });
  writeFileSync(new URL(`${face}-basic-${weight}.woff2`, folder), cut);
}
