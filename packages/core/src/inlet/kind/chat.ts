import { curlPost, type InletKindForm, PHRASES } from "./kind.ts";

const MESSAGE = { sender: "ana", room: "porch-room", text: "porch lantern in wren on" };

export const chat: InletKindForm = {
  about: "people who write in a chat",
  perMinute: 120,
  draft: { senders: ["porch-room/*"], synonyms: { lit: "on" }, routes: [PHRASES] },
  example: MESSAGE,
  typed: [
    ["text", "Chat message"],
    ["sender", "Sender"],
    ["room", "Room"],
  ],
  foreign: true,
  needsSenders: true,
  findings({ senders = [] }) {
    if (senders.length > 0) return [];
    const text = "no sender is permitted yet. Name rooms and senders, like “porch-room/ana” or “porch-room/*”.";
    return [{ level: "doubt", at: "senders", text }];
  },
  caller: ({ slug }, { origin }) => curlPost(origin, slug, "application/json", JSON.stringify(MESSAGE)),
};
