import { curlPost, type InletKindForm } from "./kind.ts";

export const call: InletKindForm = {
  about: "a cloud service that calls one action of one channel",
  perMinute: 6_000,
  draft: {},
  example: { fields: { target: "porch lantern, wren", argument: "on" } },
  typed: [["fields", "Call (JSON)"]],
  caller: ({ slug }, { origin, channel }) => curlPost(origin, `${slug}/${channel}`, "text/plain", "on"),
  spoken({ fields }) {
    const { target, argument } = (fields ?? {}) as { target?: unknown; argument?: unknown };
    return typeof target === "string" ? callText(target, String(argument)) : null;
  },
};

/** A call in words: its target is one name, whatever stands in it. */
export function callText(target: string, argument: string): string {
  return `"${target.replaceAll('"', " ")}" ${argument}`;
}
