// Parts of pages that are made: nothing of what stands in a description may break a table.
const cell = (text) => String(text).replaceAll("|", "\\|").replaceAll("\n", " ");
const row = (...cells) => `| ${cells.map(cell).join(" | ")} |`;

/** A table with its heading; empty cells stay empty. */
export function table(heading, rows) {
  return [row(...heading), `|${heading.map(() => "---|").join("")}`, ...rows.map((cells) => row(...cells))].join("\n");
}

/** A page with the line that says where it comes from. */
export function page(title, about, ...sections) {
  const made = "<!-- Made by `npm run reference` from the code. Do not edit. -->";
  return `${[`# ${title}`, made, about, ...sections].filter(Boolean).join("\n\n")}\n`;
}

/** "commandLine" → "Command line" */
export const heading = (name) => name.replace(/^./, (first) => first.toUpperCase());
