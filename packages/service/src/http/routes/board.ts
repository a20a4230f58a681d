/** The board, the service's status, and what changes on both, live. */
import type { BoardView, LiveEvent, SiteView } from "@bold-relay/api";
import { RelayError } from "@bold-relay/core";
import type { Response, Router } from "express";
import { identify } from "../../auth/identify.ts";
import { limits } from "../../config/config.ts";
import { bundleView, channelView } from "../../view/channel-view.ts";
import type { HttpParts } from "../parts.ts";
import { guardedRouter } from "../permissions.ts";

const HEARTBEAT_MS = 15_000;

export function boardRoutes(parts: HttpParts): Router {
  const { pool, board, lockouts, deadlines, feed, status, clock, log } = parts;
  return guardedRouter(pool, {
    "GET /board": (_req, res, { sites: mine }) => {
      const sites = new Map<string, SiteView>();
      for (const channel of board.snapshot.channels) {
        if (mine !== null && !mine.includes(channel.site.slug)) continue;
        const site = sites.get(channel.site.slug) ?? { ...channel.site, bundles: [], channels: [] };
        sites.set(channel.site.slug, site);
        site.channels.push(channelView(channel, { board, lockouts, deadlines }));
      }
      for (const bundle of board.snapshot.bundles) sites.get(bundle.site.slug)?.bundles.push(bundleView(bundle, board));
      res.json({ at: new Date(clock.now()).toISOString(), sites: [...sites.values()] } satisfies BoardView);
    },

    "GET /status": async (_req, res, { sites }) => {
      res.json(await status.view(sites));
    },

    /** Server-sent events (WHATWG HTML, 9.2); `Last-Event-ID` goes on where the connection before ended. */
    "GET /live": (req, res, { name, sites }) => {
      if (feed.size >= limits.liveClients) throw new RelayError("service-busy", { why: "Too many live connections" });
      res.writeHead(200, {
        "content-type": "text/event-stream; charset=utf-8",
        "cache-control": "no-store",
        "x-accel-buffering": "no",
      });
      const send = (event: LiveEvent, id: string | null) => {
        const idLine = id === null ? "" : `id: ${id}\n`;
        write(res, `${idLine}event: ${event.name}\ndata: ${JSON.stringify(event.data)}\n\n`);
      };
      const lastId = req.headers["last-event-id"];
      const missed = typeof lastId === "string" ? feed.since(lastId, sites) : null;
      if (typeof lastId === "string" && missed === null) send({ name: "reset", data: {} }, null);
      const unsubscribe = feed.subscribe({ name, sites, send, end: () => res.end() });
      // Whoever lost the right to look since then is shown no more.
      const heartbeat = setInterval(() => {
        write(res, ": still here\n\n");
        identify(pool, req).catch((error: unknown) => {
          if (!(error instanceof RelayError)) return log.debug({ err: error }, "a live caller could not be checked");
          res.end();
        });
      }, HEARTBEAT_MS);
      res.on("close", () => {
        unsubscribe();
        clearInterval(heartbeat);
      });
      send({ name: "hello", data: { at: new Date(clock.now()).toISOString(), resumed: missed !== null } }, feed.lastId);
      for (const { event, id } of missed ?? []) send(event, id);
    },
  });
}

/** A reader that does not keep up is cut off; it will come back and read the board afresh. */
function write(res: Response, text: string): void {
  if (res.writableLength > limits.liveBacklogBytes) res.destroy();
  else if (!res.writableEnded) res.write(text);
}
