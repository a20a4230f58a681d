import { type Menu, phraseAt } from "../menu.ts";
import { curlPost, type InletKindForm } from "./kind.ts";

export const keypad: InletKindForm = {
  about: "telephones, by keys",
  perMinute: 120,
  draft: {
    settings: {
      menu: {
        say: "Press one for lights on, two for lights off.",
        keys: { "1": { phrase: "porch lantern on" }, "2": { phrase: "porch lantern off" } },
      },
    },
  },
  example: { text: "porch lantern in wren on" },
  typed: [
    ["digits", "Pressed keys"],
    ["text", "Phrase of the key"],
  ],
  caller: ({ slug }, { origin }) =>
    curlPost(origin, slug, "application/json", JSON.stringify({ call: "1", digits: "1" })),
  catches: "digits",
  spoken({ digits }, settings) {
    const { menu } = settings as { menu?: Menu };
    return menu === undefined || digits === null ? null : phraseAt(menu, digits);
  },
};
