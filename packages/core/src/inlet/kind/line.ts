import type { InletDescription } from "../model.ts";
import { type InletKindForm, PHRASES } from "./kind.ts";

export const line: InletKindForm = {
  about: "people and programs that type lines over TCP",
  perMinute: 120,
  draft: { settings: { port: 4_188 }, routes: [PHRASES] },
  example: { text: "porch lantern in wren on" },
  typed: [["text", "Typed line"]],
  findings({ slug, settings = {} }, { others }) {
    const isSame = (other: InletDescription) => other.kind === "line" && other.settings?.port === settings.port;
    const same = others.find((other) => other.slug !== slug && isSame(other));
    if (!same) return [];
    const text = `The inlet ${same.slug} listens on port ${settings.port} already.`;
    return [{ level: "wrong", at: "settings.port", text }];
  },
  place: ({ settings = {} }) => `${settings.host ?? "127.0.0.1"}:${settings.port}`,
  caller: ({ settings = {} }) =>
    `nc ${settings.host ?? "127.0.0.1"} ${settings.port}     # the key first, then: porch lantern in wren on`,
  catches: "digits",
};
