/**
 * A hook: POST of JSON, a form, text or a CloudEvent (1.0, structured or binary), with the inlet's bearer key or a signature
 * (Standard Webhooks). What its fields say is matched by routes; with `settings.text` a field holds words for the grammar.
 */

import type { IncomingHttpHeaders, IncomingMessage } from "node:http";
import { type Arrival, isPointer, NO_ARRIVAL, RelayError, scalarAt } from "@bold-relay/core";
import { signedId } from "../../auth/signature.ts";
import { parseJson, readText } from "../../http-exchange/body.ts";
import { preferredWaitS, repeatKeyOf } from "../../http-exchange/prefer.ts";
import { callerFrom, requireMethod, sendHeard } from "../http-words.ts";
import type { HttpKind, HttpKindDeps, Inlet } from "../inlet.ts";
import type { InletKindWay } from "../kind.ts";
import { serveLink } from "../link-page.ts";
import { needed } from "../trial-exchange.ts";

interface Settings {
  readonly text?: string;
  readonly sender?: string;
}

const hook: HttpKind = {
  async serve(req, res, inlet, deps) {
    if (await serveLink(req, res, inlet, deps)) return;
    const isSigned = req.headers["webhook-signature"] !== undefined;
    // The key is looked at before the body: who has none does not get to send one.
    const keyId = isSigned ? null : await deps.keyOf(req);
    requireMethod(req, res, "POST");
    const text = await readText(req);
    const webhookId = isSigned ? await requireSigned(req, text, inlet, () => deps.strange(req, res)) : null;
    const arrival = arrivalOf(req.headers, text, (inlet.description.settings ?? {}) as Settings);
    const repeatKey = webhookId ?? repeatKeyOf(req.headers) ?? eventId(arrival.fields);
    const waitMs = preferredWaitS(req.headers.prefer) * 1000;
    sendHeard(res, inlet, await inlet.hear(arrival, callerFrom(req, keyId, waitMs, repeatKey)));
  },
};

async function requireSigned(
  req: IncomingMessage,
  body: string,
  { secret }: Inlet,
  refuse: () => ReturnType<HttpKindDeps["strange"]>,
): Promise<string> {
  const id = secret === null ? null : signedId(req.headers, body, secret, Math.floor(Date.now() / 1000));
  return id ?? refuse();
}

/** @throws RelayError wrong-content-type or bad-json */
function arrivalOf(headers: IncomingHttpHeaders, body: string, { text, sender }: Settings): Arrival {
  const fields = fieldsOf(headers, body);
  const at = (pointer: string | undefined) =>
    pointer !== undefined && isPointer(pointer) ? scalarAt(fields, pointer) : null;
  const words = typeof fields === "string" ? fields : at(text);
  return { ...NO_ARRIVAL, text: words, fields, sender: at(sender) };
}

function fieldsOf(headers: IncomingHttpHeaders, body: string): unknown {
  const type = (headers["content-type"] ?? "").split(";")[0]?.trim().toLowerCase() ?? "";
  const data = dataOf(type, body);
  if (headers["ce-specversion"] === undefined) return data;
  // Binary content mode: attributes travel as headers (CloudEvents HTTP binding 1.0, 3.1).
  const attributes = Object.entries(headers).filter(([name]) => name.startsWith("ce-"));
  return { ...Object.fromEntries(attributes.map(([name, value]) => [name.slice(3), value])), data };
}

function dataOf(type: string, body: string): unknown {
  if (type === "application/json" || /^application\/[\w.-]+\+json$/.test(type)) return parseJson(body);
  if (type === "application/x-www-form-urlencoded") return Object.fromEntries(new URLSearchParams(body));
  if (type === "text/plain") return body;
  throw new RelayError("wrong-content-type");
}

/** Source and id together name an event for good (CloudEvents 1.0, 3.1.1). */
function eventId(fields: unknown): string | null {
  if (scalarAt(fields, "/specversion") === null) return null;
  const [source, id] = [scalarAt(fields, "/source"), scalarAt(fields, "/id")];
  return source === null || id === null ? null : `${source} ${id}`.slice(0, 200);
}

export const hookWay: InletKindWay = {
  http: () => hook,
  trial: async ({ inlet, arrival: { fields, text }, post }) => [
    await post(inlet.description.slug, fields ?? needed(text || undefined, "fields or text")),
  ],
};
