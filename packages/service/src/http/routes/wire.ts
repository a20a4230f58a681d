/** The wire: live messages under a filter, and publishing by hand. */
import type { WireMessageView } from "@bold-relay/api";
import { publishSchema, wireQuerySchema } from "@bold-relay/api/schema";
import { payloadText, RelayError, sight } from "@bold-relay/core";
import type { Router } from "express";
import { limits } from "../../config/config.ts";
import { saveAudit } from "../../store/team.ts";
import type { WireMessage } from "../../wire/wire.ts";
import { checked, readBody } from "../body.ts";
import { openEventStream } from "../event-stream.ts";
import type { HttpParts } from "../parts.ts";
import { guardedRouter } from "../permissions.ts";

/** Payloads are shown up to this length, bytes. */
const MOST_SHOWN = 2_000;

export function wireRoutes({ pool, log, wire, board }: HttpParts): Router {
  return guardedRouter(pool, {
    "GET /wire": async (req, res, { sites }) => {
      const { filter, all = false } = checked(wireQuerySchema, req.query);
      if (wire.size >= limits.wireWatchers) throw new RelayError("service-busy", { why: "Too many look at the wire" });
      if (sites !== null && !sites.some((site) => filter.startsWith(`${site}/`))) {
        throw new RelayError("not-permitted", {
          why: `You may look at the wire of ${sites.join(", ")}: begin the filter with that site`,
        });
      }
      await wire.connect().catch((error: unknown) => {
        throw brokerAway(error);
      });
      const stream = openEventStream(req, res, { pool, log }, () => void watching.then((stop) => stop()));
      stream.send("hello", { filter, masks: wire.masks({ filter, all }) });
      const onEnd = (why: string) => {
        stream.send("ended", { why });
        stream.end();
      };
      const watching = wire
        .watch({
          filter,
          all,
          onMessage: (message) => stream.send("message", messageView(message)),
          onSkipped: (count) => stream.send("skipped", { count }),
          onEnd,
        })
        .catch((error: unknown) => {
          onEnd(error instanceof Error ? error.message : String(error));
          return () => {};
        });
      await watching;
    },

    "POST /wire": async (req, res, { name: actor, sites }) => {
      const { topic, payload = "", as = "text", qos = 1, clear = false } = await readBody(req, publishSchema);
      const { site } = sight(board.snapshot, topic, new Uint8Array());
      const owner = site ?? topic.split("/")[0] ?? "";
      if (sites !== null && !sites.includes(owner))
        throw new RelayError("not-permitted", { why: `${actor} may not publish on topics of ${owner}` });
      const bytes = clear
        ? new Uint8Array()
        : as === "hex"
          ? Buffer.from(payload.replaceAll(" ", ""), "hex")
          : Buffer.from(payload);
      const after = clear ? { cleared: true } : { payload: payloadText(bytes), qos };
      await saveAudit(pool, { actor, action: "published by hand", object: topic, before: null, after });
      await wire.publish(topic, bytes, { qos, retain: clear }).catch((error: unknown) => {
        throw brokerAway(error);
      });
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
