/**
 * A call from a cloud service: POST /in/<inlet>/<channel or group> with one argument, as a form field, JSON {"argument"} or
 * text. Arguments are read whatever their case and spaces; one that is unknown is answered with those that there are. The
 * answer has the device's own result code, and words.
 */

import { callText, NO_ARRIVAL, RelayError } from "@bold-relay/core";
import { parseJson, readText } from "../../http-exchange/body.ts";
import { preferredWaitS } from "../../http-exchange/prefer.ts";
import { callerFrom, noteAnswer, requireMethod, restOf, sendJson } from "../http-words.ts";
import type { HttpKind } from "../inlet.ts";
import type { InletKindWay } from "../kind.ts";
import { needed } from "../trial-exchange.ts";

/** How long a caller who does not say waits for the device, ms. */
const WAIT_MS = 5_000;

/** Told where the device gave no code of its own. */
const CODES: Readonly<Record<string, number>> = { delivered: 1, open: 0 };

const call: HttpKind = {
  async serve(req, res, inlet, { keyOf }) {
    const keyId = await keyOf(req);
    requireMethod(req, res, "POST");
    const target = restOf(req, inlet.description.slug);
    if (target === "")
      throw new RelayError("bad-request", {
        why: "The address ends in what is called: /in/<inlet>/<channel or group>",
      });
    const argument = argumentIn(req.headers["content-type"] ?? "", await readText(req));
    const waitMs = req.headers.prefer === undefined ? WAIT_MS : preferredWaitS(req.headers.prefer) * 1000;
    const arrival = { ...NO_ARRIVAL, text: callText(target, argument), fields: { target, argument } };
    const result = await inlet.hear(arrival, callerFrom(req, keyId, waitMs));
    noteAnswer(res, inlet, result);
    const [command] = result.requests.flatMap(({ commands }) => commands);
    const code = command?.code ?? CODES[result.outcome] ?? -1;
    sendJson(res, result.outcome === "not-understood" ? 422 : 200, {
      code,
      words: result.reply,
      outcome: result.outcome,
    });
  },
};

function argumentIn(contentType: string, body: string): string {
  if (/^application\/json/i.test(contentType)) {
    const { argument } = (parseJson(body) ?? {}) as { argument?: unknown };
    if (typeof argument === "string" || typeof argument === "number") return String(argument);
    throw new RelayError("bad-request", { why: 'The body holds the argument: {"argument": "on"}' });
  }
  if (!/^application\/x-www-form-urlencoded/i.test(contentType)) return body;
  const form = new URLSearchParams(body);
  const [[alone, nothing] = ["", ""]] = form;
  // `curl -d on` says that it sends a form, and sends a word.
  return form.get("argument") ?? form.get("arg") ?? (form.size === 1 && nothing === "" ? alone : "");
}

export const callWay: InletKindWay = {
  http: () => call,
  async trial({ inlet, arrival: { fields }, post }) {
    const { target, argument } = (fields ?? {}) as { target?: string; argument?: string };
    const place = encodeURIComponent(needed(target, "fields with target and argument"));
    return [await post(`${inlet.description.slug}/${place}`, argument ?? "")];
  },
};
