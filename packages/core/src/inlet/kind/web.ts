import { curlPost, type InletKindForm } from "./kind.ts";

export const web: InletKindForm = {
  about: "programs that name channel and action as JSON",
  perMinute: 1_000_000,
  draft: {},
  example: { fields: { target: "porch lantern, wren", action: "on" } },
  typed: [["fields", "Request (JSON)"]],
  direct: true,
  caller: ({ slug }, { origin, channel }) =>
    curlPost(origin, slug, "application/json", JSON.stringify({ target: channel, action: "on" })),
};
