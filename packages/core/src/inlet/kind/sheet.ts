import { curlGet, type InletKindForm } from "./kind.ts";

export const sheet: InletKindForm = {
  about: "a spreadsheet that is looked at again and again",
  perMinute: 600,
  draft: { settings: { url: "http://127.0.0.1:4189/remote.csv", everyS: 10, form: "rows" } },
  example: { text: '"porch lantern wren" on' },
  typed: [["text", "Row"]],
  caller: ({ slug }, { origin }) => `${curlGet(origin, `${slug}/states.csv`)}     # and in the sheet: channel,want`,
  proof: "none",
};
