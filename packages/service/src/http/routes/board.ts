/** The board, the service's status, and what changes on both, live. */
import type { BoardView, LiveEvent, SiteView } from "@bold-relay/api";
import type { Router } from "express";
import { bundleView, channelView } from "../../views/channel-view.ts";
import type { HttpDeps } from "../deps.ts";
import { openEventStream } from "../event-stream.ts";

export function boardRoutes(deps: HttpDeps): Router {
  const { guard, streams, board, lockouts, deadlines, feed, statusOfAll, clock } = deps;
  return guard.routes({
    "GET /board": (_req, res, { sites: mine }) => {
      const event = feed.expectListener();
      const seen = board.snapshot.sites.filter(({ slug }) => mine === null || mine.includes(slug));
      const sites = new Map(
        seen.map(({ slug, name, timeZone = null }): [string, SiteView] => [
          slug,
          { slug, name, timeZone, bundles: [], channels: [] },
        ]),
      );
      for (const channel of board.snapshot.channels)
        sites.get(channel.site.slug)?.channels.push(channelView(channel, { board, lockouts, deadlines }));
      for (const bundle of board.snapshot.bundles) sites.get(bundle.site.slug)?.bundles.push(bundleView(bundle, board));
      res.json({ at: new Date(clock.now()).toISOString(), event, sites: [...sites.values()] } satisfies BoardView);
    },

    "GET /status": async (_req, res, { sites }) => {
      res.json(await statusOfAll(sites));
    },

    /** Server-sent events (WHATWG HTML, 9.2); `Last-Event-ID` goes on where the connection before ended. */
    "GET /live": (req, res, caller) => {
      const { sites } = caller;
      const lastId = req.headers["last-event-id"];
      const missed = typeof lastId === "string" ? feed.since(lastId, sites) : null;
      const stream = openEventStream(res, { streams, kind: "live", caller }, () => unsubscribe());
      const send = (event: LiveEvent, id: string | null) => stream.send(event.name, event.data, id);
      if (typeof lastId === "string" && missed === null) send({ name: "reset", data: {} }, null);
      const unsubscribe = feed.subscribe({ sites, send, end: stream.end });
      send({ name: "hello", data: { at: new Date(clock.now()).toISOString(), resumed: missed !== null } }, feed.lastId);
      for (const { event, id } of missed ?? []) send(event, id);
    },
  });
}
