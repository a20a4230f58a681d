/**
 * The blocks of a Markdown page. What stands behind the language of a fence says what becomes of the block:
 *
 * - `sh`: it is run, and ends with 0. `sh fails`: it is run, and ends otherwise. `sh not-run: why`: it is not run.
 * - `text output`: what the block of shell before it prints. `…` stands for anything.
 * - `yaml KIND`, `json KIND`: a whole document of this kind. `yaml KIND part`: some fields of one.
 * - `text`, `http`: for the reader only.
 */
import { readFileSync } from "node:fs";

export interface Block {
  /** "docs/start.md:12" */
  readonly place: string;
  readonly language: string;
  /** What stands behind the language. */
  readonly about: string;
  readonly text: string;
}

/** @param file path from the project's folder; the same name stands in errors */
export function blocksOf(root: URL, file: string): Block[] {
  const lines = readFileSync(new URL(file, root), "utf8").split("\n");
  const blocks: Block[] = [];
  let open: { place: string; language: string; about: string; fence: string; lines: string[] } | null = null;
  for (const [index, line] of lines.entries()) {
    if (open === null) {
      const [, fence, language = "", about = ""] = /^(`{3,})(\S*)\s*(.*)$/.exec(line) ?? [];
      if (fence !== undefined) open = { place: `${file}:${index + 1}`, language, about, fence, lines: [] };
    } else if (line === open.fence) {
      const { place, language, about } = open;
      blocks.push({ place, language, about, text: open.lines.join("\n") });
      open = null;
    } else open.lines.push(line);
  }
  if (open !== null) throw new Error(`${open.place}: this block has no end`);
  return blocks;
}

export const isRun = ({ language, about }: Block): boolean => language === "sh" && !about.startsWith("not-run:");
export const isOutput = ({ language, about }: Block): boolean => language === "text" && about === "output";

/** Whether somebody said what becomes of it; with a reason where it is not run. */
export function isMarked({ language, about }: Block): boolean {
  if (language === "sh") return about === "" || about === "fails" || /^not-run: \S+ \S+/.test(about);
  if (language === "text") return about === "" || about === "output";
  if (language === "http") return about === "";
  return ["yaml", "json"].includes(language) && /^\w+( part)?$/.test(about);
}
