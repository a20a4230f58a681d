// The pages of the project as people read them: which there are, their prose, their commands.
import { execFileSync } from "node:child_process";
import { readFileSync } from "node:fs";

/** Files that are kept or about to be. */
export function listFiles(pattern) {
  const listed = execFileSync("git", ["ls-files", "--cached", "--others", "--exclude-standard", "--deduplicate"], {
    encoding: "utf8",
  });
  const gone = execFileSync("git", ["ls-files", "--deleted"], { encoding: "utf8" }).split("\n");
  return listed.split("\n").filter((file) => pattern.test(file) && !gone.includes(file));
}

export const pages = () => listFiles(/\.md$/);

/** Lines with their numbers, without blocks of code. */
export const prose = (file) => split(file).filter(({ block }) => block === null);

/** Lines of the blocks of a language. */
export const blockLines = (file, language) => split(file).filter(({ block }) => block?.split(" ")[0] === language);

function split(file) {
  let block = null;
  return readFileSync(file, "utf8")
    .split("\n")
    .flatMap((text, index) => {
      const fence = /^\s*```+(.*)$/.exec(text);
      if (fence) {
        block = block === null ? fence[1].trim() : null;
        return [];
      }
      return [{ at: index + 1, text, block }];
    });
}

/** What a link may lead to within a page, as readers of Markdown make it of a heading. */
export function headings(file) {
  return prose(file).flatMap(({ text }) => {
    const title = /^#+ (.*)$/.exec(text)?.[1];
    if (title === undefined) return [];
    return title
      .toLowerCase()
      .replace(/[^\p{L}\p{N}\s_-]/gu, "")
      .trim()
      .replace(/\s/g, "-");
  });
}
