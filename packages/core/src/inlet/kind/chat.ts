import { curlPost, type InletKindForm, PHRASES } from "./kind.ts";

const MESSAGE = { sender: "ana", room: "porch-room", text: "porch lantern in wren on" };

export const chat: InletKindForm = {
  about: "people who write in a chat",
  perMinute: 120,
  draft: { senders: ["porch-room/*"], synonyms: { lit: "on" }, routes: [PHRASES] },
  example: MESSAGE,
  caller: ({ slug }, { origin }) => curlPost(origin, slug, "application/json", JSON.stringify(MESSAGE)),
};
