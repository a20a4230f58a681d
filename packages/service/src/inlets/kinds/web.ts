/**
 * The web inlet: POST /in/<inlet> with one JSON object and the inlet's own bearer key.
 *
 * It stands before the rest of the HTTP application and uses none of it: what runs before the
 * journal's commit is the biggest part of a request's cost.
 */

import type { IncomingMessage, ServerResponse } from "node:http";
import { inletAskSchema, usualAsk } from "@bold-relay/api/schema";
import type { Asker } from "@bold-relay/core";
import { checked, readJson } from "../../http-exchange/body.ts";
import { intentOf, preferredWaitS, prefersMinimal } from "../../http-exchange/prefer.ts";
import { sendBrief, sendRequest } from "../../http-exchange/send-request.ts";
import { requireMethod } from "../http-words.ts";
import type { HttpKind, Inlet } from "../inlet.ts";
import type { InletKindWay } from "../kind.ts";
import { needed } from "../trial-exchange.ts";

const web: HttpKind = {
  async serve(req, res, inlet, { keyOf }) {
    const keyId = await keyOf(req);
    requireMethod(req, res, "POST");
    inlet.admit();
    inlet.noteArrival();
    try {
      await take(req, res, inlet, keyId);
      inlet.noteEnd({ status: "fulfilled", value: null });
    } catch (reason) {
      inlet.noteEnd({ status: "rejected", reason });
      throw reason;
    }
  },
};

async function take(req: IncomingMessage, res: ServerResponse, inlet: Inlet, keyId: number): Promise<void> {
  const arrival = await readJson(req);
  const body = usualAsk(arrival) ?? checked(inletAskSchema, arrival);
  const intent = intentOf(body, req.headers);
  const { slug, name, site } = inlet.description;
  const asker: Asker = {
    requester: "inlet",
    memberId: null,
    inlet: slug,
    name: body.sender ?? name,
    sites: site === null ? null : [site],
    keyId,
  };
  const { prefer } = req.headers;
  const waitMs = preferredWaitS(prefer) * 1000;
  if (prefersMinimal(prefer)) {
    const { brief, there } = await inlet.requests.askBriefly(intent, asker, waitMs);
    sendBrief(res, brief, there);
  } else {
    sendRequest(res, await inlet.requests.ask(intent, asker, waitMs), intent.until);
  }
}

export const webWay: InletKindWay = {
  http: () => web,
  isAnywhere: true,
  trial: async ({ inlet, arrival, post }) => [
    await post(inlet.description.slug, needed(arrival.fields, "what is asked, as fields: target and action")),
  ],
};
