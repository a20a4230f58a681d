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
  return `${[`# ${title}`, made, wrapped(about), ...sections].filter(Boolean).join("\n\n")}\n`;
}

/** A paragraph in lines that a reader of the source sees whole. */
function wrapped(text) {
  const lines = [""];
  for (const word of text.split(/\s+/)) {
    const longer = `${lines.at(-1)} ${word}`.trim();
    if (longer.length <= 120) lines[lines.length - 1] = longer;
    else lines.push(word);
  }
  return lines.join("\n");
}

/** "commandLine" → "Command line" */
export const heading = (name) => name.replace(/^./, (first) => first.toUpperCase());
