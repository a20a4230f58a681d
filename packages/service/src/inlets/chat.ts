/**
 * Messages of a chat: an outside service posts each with its sender and room; what is said back stands in the answer, or is
 * posted to the one address that the inlet names. Who is not permitted in that room hears one polite line.
 */
import { type Arrival, isPointer, scalarAt } from "@bold-relay/core";
import { parseJson, readText } from "../http/body.ts";
import { repeatKeyOf } from "../http/prefer.ts";
import type { Log } from "../log.ts";
import { requireMethod, sendJson } from "./http-words.ts";
import type { Calls, HttpKind } from "./inlet.ts";

interface Settings {
  readonly text?: string;
  readonly sender?: string;
  readonly room?: string;
  readonly name?: string;
  readonly replyUrl?: string;
}

/** How long the chat waits before it is told that it takes longer, ms. */
const WAIT_MS = 4_000;
const REPLY_TRIES = 3;

export const chat: HttpKind = {
  async serve(req, res, inlet, { keyOf, calls, log }) {
    const keyId = await keyOf(req);
    requireMethod(req, res, "POST");
    const body = parseJson(await readText(req));
    const settings = (inlet.description.settings ?? {}) as Settings;
    const arrival = arrivalOf(body, settings);
    const heard = await inlet.hear(arrival, { keyId, repeatKey: repeatKeyOf(req.headers), waitMs: WAIT_MS });
    sendJson(res, 200, { reply: heard.reply, outcome: heard.outcome, requests: heard.requests.map(({ id }) => id) });
    const { replyUrl } = settings;
    const said = { room: arrival.room, to: arrival.sender };
    if (replyUrl === undefined) return;
    if (heard.reply !== "") await post(replyUrl, { ...said, text: heard.reply }, calls, log);
    heard.later
      ?.then((end) => post(replyUrl, { ...said, text: end.reply }, calls, log))
      .catch((error: unknown) =>
        log.warn({ err: error, inlet: inlet.description.slug }, "the outcome could not be told"),
      );
  },
};

/** Fields are where this service usually has them, unless the inlet says otherwise. */
function arrivalOf(
  body: unknown,
  { text = "/text", sender = "/sender", room = "/room", name = "/name" }: Settings,
): Arrival {
  const at = (pointer: string) => (isPointer(pointer) ? scalarAt(body, pointer) : null);
  return {
    text: at(text) ?? "",
    fields: body,
    topic: null,
    digits: null,
    sender: at(sender) ?? at(name),
    room: at(room),
  };
}

/** A reply that does not get through is tried again, then given up: what was done stays in the journal. */
async function post(url: string, message: object, calls: Calls, log: Log): Promise<void> {
  for (let attempt = 1; ; attempt += 1) {
    try {
      const headers = { "content-type": "application/json" };
      const { status } = await calls.fetch(url, { method: "POST", headers, body: JSON.stringify(message) });
      if (status < 300) return;
      throw new Error(`it answered ${status}`);
    } catch (error) {
      if (attempt >= REPLY_TRIES) {
        log.warn({ err: error, url }, "a reply was not taken");
        return;
      }
      await new Promise((resolve) => setTimeout(resolve, 500 * attempt));
    }
  }
}
