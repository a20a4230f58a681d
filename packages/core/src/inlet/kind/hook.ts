import { curlPost, type InletKindForm } from "./kind.ts";

const EVENT = { type: "arrived", cottage: "wren" };

export const hook: InletKindForm = {
  about: "events of another system, by their fields",
  perMinute: 6_000,
  draft: {
    routes: [
      {
        name: "guests arrive",
        when: { fields: { "/type": "arrived", "/cottage": "{cottage}" } },
        do: { phrase: "porch lantern in {cottage} on" },
      },
    ],
  },
  example: { fields: EVENT },
  typed: [["fields", "Event (JSON)"]],
  foreign: true,
  caller: ({ slug }, { origin }) => curlPost(origin, slug, "application/json", JSON.stringify(EVENT)),
  proof: "key or signature",
};
