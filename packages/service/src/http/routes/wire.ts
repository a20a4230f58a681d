/** The wire: live messages under a filter, and publishing by hand. */
import type { WireMessageView } from "@bold-relay/api";
import { publishSchema, wireQuerySchema } from "@bold-relay/api/schema";
import { payloadText, RelayError } from "@bold-relay/core";
import type { Router } from "express";

import type { WireMessage } from "../../broker/wire.ts";
import { checked, readBody } from "../../http-exchange/body.ts";
import type { HttpDeps } from "../deps.ts";
import { openEventStream } from "../event-stream.ts";

/** Payloads are shown up to this length, bytes. */
const MOST_SHOWN = 2_000;

export function wireRoutes({
  guard,
  streams,
  wire,
  gate,
}: Pick<HttpDeps, "guard" | "streams" | "wire" | "gate">): Router {
  return guard.routes({
    "GET /wire": async (req, res, caller) => {
      const { sites } = caller;
      const { filter, all = false } = checked(wireQuerySchema, req.query);
      if (sites !== null && !sites.some((site) => filter.startsWith(`${site}/`))) {
        throw new RelayError("not-permitted", {
          why: `You may look at the wire of ${sites.join(", ")}: begin the filter with that site`,
        });
      }
      await wire.connect().catch((error: unknown) => {
        throw brokerAway(error);
      });
      const stream = openEventStream(res, { streams, kind: "wire", caller }, () => {
        void watching.then((stop) => stop());
      });
      stream.send("hello", { filter, masks: wire.masks({ filter, all }) });
      const onEnd = (why: string) => {
        stream.send("ended", { why });
        stream.end();
      };
      const watching = wire
        .watch({
          filter,
          all,
          sites,
          onMessage: (message) => stream.send("message", messageView(message)),
          onSkipped: (count) => stream.send("skipped", { count }),
          onMissing: (instances) => stream.send("missing", { instances }),
          onEnd,
        })
        .catch((error: unknown) => {
          onEnd(error instanceof Error ? error.message : String(error));
          return () => {};
        });
      await watching;
    },

    "POST /wire": async (req, res, caller) => {
      const { topic, payload = "", as = "text", ...how } = await readBody(req, publishSchema);
      const { qos = 1, clear = false, confirm = false } = how;
      const bytes = clear
        ? new Uint8Array()
        : as === "hex"
          ? Buffer.from(payload.replaceAll(" ", ""), "hex")
          : Buffer.from(payload);
      const shown = clear ? { cleared: true } : { payload: payloadText(bytes), qos };
      await gate.publishByHand(caller, { topic, payload: bytes, qos, retain: clear, shown, confirmed: confirm });
      res.status(204).end();
    },
  });
}

function brokerAway(cause: unknown): RelayError {
  const why = cause instanceof Error ? cause.message : String(cause);
  return new RelayError("service-busy", { why: `The broker cannot be asked (${why})` }, { cause });
}

function messageView({ at, payload, ...rest }: WireMessage): WireMessageView {
  const shown = Buffer.from(payload.subarray(0, MOST_SHOWN));
  return {
    ...rest,
    at: new Date(at).toISOString(),
    text: payloadText(shown),
    hex: shown.toString("hex"),
    bytes: payload.length,
  };
}
