/**
 * A panel: its page is of the console's files at /panel/<slug>; here it gets what it shows and asks what its buttons say. A key of the inlet
 * opens it, and the PIN where it has one. It takes what it offers and nothing else; what is tried beside that is put on record.
 *
 * GET /in/<slug>/panel: all of it · GET /in/<slug>/live: events · POST /in/<slug>/key: keep the key in a
 * cookie · POST /in/<slug>/pin: enter the PIN · POST /in/<slug>: press a button
 */
import type { IncomingMessage, ServerResponse } from "node:http";
import type { PanelAskBody, PanelPinBody } from "@bold-relay/api";
import { panelAskSchema, panelPinSchema } from "@bold-relay/api/schema";
import {
  type Asker,
  type Intent,
  inletWay,
  NO_ARRIVAL,
  offeredBy,
  panelParts,
  RelayError,
  readTraceparent,
} from "@bold-relay/core";
import { readBody } from "../../http-exchange/body.ts";
import { repeatKeyOf } from "../../http-exchange/prefer.ts";
import { callerFrom, requireMethod, restOf, sendJson } from "../http-words.ts";
import type { HttpKind, HttpKindDeps, Inlet } from "../inlet.ts";
import type { InletKindWay } from "../kind.ts";
import { PanelPins, type PinPlace } from "../panel/pin.ts";
import { PanelStreams } from "../panel/stream.ts";
import { panelView } from "../panel/view.ts";
import { needed } from "../trial-exchange.ts";

function createPanel(): HttpKind {
  const pins = new PanelPins();
  const streams = new PanelStreams();
  return {
    takesCookie: true,
    async serve(req, res, inlet, deps) {
      const keyId = await deps.keyOf(req);
      const { slug } = inlet.description;
      const rest = restOf(req, slug);
      if (inlet.description.paused) throw new RelayError("inlet-paused", { inlet: inlet.description.name });
      const place = pinPlace(inlet, keyId);
      const token = req.headers["x-panel-pin"];
      const requirePin = (at: PinPlace) => pins.require(typeof token === "string" ? token : undefined, at, Date.now());
      switch (rest) {
        case "key":
          requireMethod(req, res, "POST");
          req.resume();
          deps.keepKey();
          res.statusCode = 204;
          res.end();
          return;
        case "pin": {
          requireMethod(req, res, "POST");
          const { pin } = await readBody<PanelPinBody>(req, panelPinSchema);
          return sendJson(res, 200, await pins.enter(pin, place, Date.now()));
        }
        case "panel":
          requireMethod(req, res, "GET");
          requirePin(place);
          return sendJson(res, 200, panelView(inlet.description, deps.panels));
        case "live":
          requireMethod(req, res, "GET");
          requirePin(place);
          return streams.serve(res, inlet.description, keyId, {
            source: deps.panels,
            async current() {
              const now = await deps.stillThere();
              requirePin(pinPlace(now, keyId));
              return now.description;
            },
          });
        case "":
          requireMethod(req, res, "POST");
          requirePin(place);
          return press(req, res, inlet, keyId, deps);
        default:
          throw new RelayError("not-found", { what: "A part of the panel at this address" });
      }
    },
  };
}

/** What became of a channel comes with the live events; of a group or a scene the answer tells, if it is known by then. */
const WAIT_MS = 10_000;

function pinPlace({ description: { slug, settings = {} } }: Inlet, keyId: number): PinPlace {
  const { pinHash } = settings as { readonly pinHash?: string };
  return { slug, keyId, pinHash };
}

async function press(
  req: IncomingMessage,
  res: ServerResponse,
  inlet: Inlet,
  keyId: number,
  { panels }: Pick<HttpKindDeps, "panels">,
): Promise<void> {
  const { description } = inlet;
  const body = await readBody<PanelAskBody>(req, panelAskSchema);
  const part = offeredBy(panelParts(description, panels.snapshot()), body);
  if (!part) {
    const refusal = new RelayError("not-permitted", { why: `${description.name} does not offer this` });
    await inlet.refuse({ ...NO_ARRIVAL, fields: body }, callerFrom(req, keyId, 0), refusal);
    return;
  }
  inlet.admit();
  inlet.noteArrival();
  const { slug, name, site } = description;
  const asker: Asker = {
    requester: "inlet",
    memberId: null,
    inlet: slug,
    name,
    sites: site === null ? null : [site],
    keyId,
  };
  try {
    const waitMs = part.target && "bundle" in part.target ? WAIT_MS : 0;
    const { id, outcome } = await inlet.requests.ask(intentOf(body, part.name, req, slug), asker, waitMs);
    inlet.noteEnd({ status: "fulfilled", value: null });
    sendJson(res, outcome === "open" ? 202 : 200, { id, outcome });
  } catch (reason) {
    inlet.noteEnd({ status: "rejected", reason });
    throw reason;
  }
}

function intentOf(
  { target, action, value }: PanelAskBody,
  button: string,
  { headers }: IncomingMessage,
  slug: string,
): Intent {
  const words = `${button}: ${action}${value === undefined ? "" : ` ${value}`}`;
  return {
    ...{ target, action, value: value ?? null, forMs: null, until: null },
    repeatKey: repeatKeyOf(headers),
    said: { words: words.slice(0, 500), route: null, used: [] },
    traceparent: readTraceparent(headers.traceparent),
    way: inletWay(slug, null),
  };
}

export const panelWay: InletKindWay = {
  http: createPanel,
  trial: async ({ inlet, arrival, post }) => [
    await post(inlet.description.slug, needed(arrival.fields, "what is pressed, as fields: target and action")),
  ],
};
