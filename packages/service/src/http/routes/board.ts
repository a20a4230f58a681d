/** The board, the service's status, and what changes on both, live. */
import type { BoardView, LiveEvent, SiteView } from "@bold-relay/api";
import { RelayError } from "@bold-relay/core";
import { type Response, Router } from "express";
import { identify } from "../../auth/identify.ts";
import { limits } from "../../config/config.ts";
import { bundleView, channelView } from "../../view/channel-view.ts";
import type { HttpParts } from "../parts.ts";

const HEARTBEAT_MS = 15_000;

export function boardRoutes({ pool, board, lockouts, deadlines, feed, status, clock }: HttpParts): Router {
  const router = Router();

  router.get("/board", async (req, res) => {
    await identify(pool, req);
    const sites = new Map<string, SiteView>();
    for (const channel of board.snapshot.channels) {
      const site = sites.get(channel.site.slug) ?? { ...channel.site, bundles: [], channels: [] };
      sites.set(channel.site.slug, site);
      site.channels.push(channelView(channel, { board, lockouts, deadlines }));
    }
    for (const bundle of board.snapshot.bundles) sites.get(bundle.site.slug)?.bundles.push(bundleView(bundle, board));
    res.json({ at: new Date(clock.now()).toISOString(), sites: [...sites.values()] } satisfies BoardView);
  });

  router.get("/status", async (req, res) => {
    await identify(pool, req);
    res.json(await status.view());
  });

  /** Server-sent events (WHATWG HTML, 9.2). */
  router.get("/live", async (req, res) => {
    await identify(pool, req);
    if (feed.size >= limits.liveClients) throw new RelayError("service-busy", { why: "Too many live connections" });
    res.writeHead(200, {
      "content-type": "text/event-stream; charset=utf-8",
      "cache-control": "no-store",
      "x-accel-buffering": "no",
    });
    let number = 0;
    const send = (event: LiveEvent) => {
      number += 1;
      write(res, `id: ${number}\nevent: ${event.name}\ndata: ${JSON.stringify(event.data)}\n\n`);
    };
    const unsubscribe = feed.subscribe(send);
    const heartbeat = setInterval(() => write(res, ": still here\n\n"), HEARTBEAT_MS);
    res.on("close", () => {
      unsubscribe();
      clearInterval(heartbeat);
    });
    send({ name: "hello", data: { at: new Date(clock.now()).toISOString() } });
  });

  return router;
}

/** A reader that does not keep up is cut off; it will come back and read the board afresh. */
function write(res: Response, text: string): void {
  if (res.writableLength > limits.liveBacklogBytes) res.destroy();
  else res.write(text);
}
