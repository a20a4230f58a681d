/**
 * Messages of a chat: an outside service posts each with its sender and room; what is said back stands in the answer, or is
 * posted to the one address that the inlet names. Who is not permitted in that room hears one polite line.
 */

import { type Arrival, isPointer, NO_ARRIVAL, type RequestId, scalarAt, traceparentFor } from "@bold-relay/core";
import { parseJson, readText } from "../../http-exchange/body.ts";
import type { Calls } from "../../platform/calls.ts";
import { callerFrom, noteAnswer, requireMethod, sendJson } from "../http-words.ts";
import type { HttpKind, InletResult } from "../inlet.ts";
import type { InletKindWay } from "../kind.ts";

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

const chat: HttpKind = {
  async serve(req, res, inlet, { keyOf, calls, log }) {
    const keyId = await keyOf(req);
    requireMethod(req, res, "POST");
    const body = parseJson(await readText(req));
    const settings = (inlet.description.settings ?? {}) as Settings;
    const arrival = arrivalOf(body, settings);
    const origin = callerFrom(req, keyId, WAIT_MS);
    const result = await inlet.hear(arrival, origin);
    noteAnswer(res, inlet, result);
    sendJson(res, 200, { reply: result.reply, outcome: result.outcome, requests: result.requests.map(({ id }) => id) });
    const { replyUrl } = settings;
    const said = { room: arrival.room, to: arrival.sender };
    if (replyUrl === undefined) return;
    const tell = async (one: InletResult): Promise<void> => {
      const [request] = one.made;
      const traced =
        request === undefined
          ? null
          : traceparentFor(request as RequestId, origin.traceparent ?? null, request as RequestId);
      const why = await post(replyUrl, { ...said, text: one.reply }, traced, calls);
      inlet.told(one, { how: "post", said: one.reply, taken: why === null, why });
      if (why !== null) log.warn({ inlet: inlet.description.slug, url: replyUrl, why }, "a reply was not taken");
    };
    if (result.reply !== "") await tell(result);
    result.later
      ?.then(tell)
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
  return { ...NO_ARRIVAL, text: at(text) ?? "", fields: body, sender: at(sender) ?? at(name), room: at(room) };
}

/**
 * A reply that does not get through is tried again, then given up: what was done stays in the journal.
 *
 * @returns why it was not taken; null when it was
 */
async function post(url: string, message: object, traceparent: string | null, calls: Calls): Promise<string | null> {
  for (let attempt = 1; ; attempt += 1) {
    try {
      const headers = { "content-type": "application/json", ...(traceparent === null ? {} : { traceparent }) };
      const { status } = await calls.fetch(url, { method: "POST", headers, body: JSON.stringify(message) });
      if (status < 300) return null;
      throw new Error(`it answered ${status}`);
    } catch (error) {
      if (attempt >= REPLY_TRIES) return (error as Error).message.slice(0, 200);
      await new Promise((resolve) => setTimeout(resolve, 500 * attempt));
    }
  }
}

export const chatWay: InletKindWay = {
  http: () => chat,
  async trial({ inlet, arrival, post }) {
    const { slug, settings = {} } = inlet.description;
    return [await post(slug, arrival.fields ?? chatBody(arrival, settings))];
  },
};

/** A message as this chat would post it: each part where the inlet looks for it. */
function chatBody({ text, sender, room }: Partial<Arrival>, settings: Readonly<Record<string, unknown>>): object {
  const body: Record<string, unknown> = {};
  const parts = [
    [settings.text ?? "/text", text],
    [settings.sender ?? "/sender", sender],
    [settings.room ?? "/room", room],
  ] as const;
  for (const [pointer, value] of parts) place(body, String(pointer).split("/").slice(1), value ?? "");
  return body;
}

function place(body: Record<string, unknown>, [first = "", ...rest]: readonly string[], value: string): void {
  const name = first.replaceAll("~1", "/").replaceAll("~0", "~");
  // The names come from a description that people write.
  const own = Object.hasOwn(body, name) ? body[name] : undefined;
  const inner = typeof own === "object" && own !== null ? (own as Record<string, unknown>) : {};
  if (rest.length > 0) place(inner, rest, value);
  Object.defineProperty(body, name, { value: rest.length > 0 ? inner : value, enumerable: true, configurable: true });
}
