import { type InletKindForm, PHRASES } from "./kind.ts";

export const line: InletKindForm = {
  about: "people and programs that type lines over TCP",
  perMinute: 120,
  draft: { settings: { port: 4_188 }, routes: [PHRASES] },
  example: { text: "porch lantern in wren on" },
  caller: ({ settings = {} }) =>
    `nc ${settings.host ?? "127.0.0.1"} ${settings.port}     # the key first, then: porch lantern in wren on`,
  catches: "digits",
};
