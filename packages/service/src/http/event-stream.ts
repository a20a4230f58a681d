/** A connection of server-sent events (WHATWG HTML, 9.2): bounded, kept alive, and over when the caller's right is. */
import { RelayError } from "@bold-relay/core";
import type { Request, Response } from "express";
import { identify } from "../auth/identify.ts";
import { limits } from "../config/config.ts";
import type { Log } from "../log.ts";
import type { Pool } from "../store/pool.ts";

const HEARTBEAT_MS = 15_000;

export interface EventStream {
  send(name: string, data: unknown, id?: string | null): void;
  end(): void;
}

/** @param onClose called once, however it ended */
export function openEventStream(
  req: Request,
  res: Response,
  { pool, log }: { pool: Pool; log: Log },
  onClose: () => void,
): EventStream {
  res.writeHead(200, {
    "content-type": "text/event-stream; charset=utf-8",
    "cache-control": "no-store",
    "x-accel-buffering": "no",
  });
  const heartbeat = setInterval(() => {
    write(res, ": still here\n\n");
    // Whoever lost the right to look since then is shown no more.
    identify(pool, req).catch((error: unknown) => {
      if (!(error instanceof RelayError)) return log.debug({ err: error }, "a live caller could not be checked");
      res.end();
    });
  }, HEARTBEAT_MS);
  res.on("close", () => {
    clearInterval(heartbeat);
    onClose();
  });
  return {
    send(name, data, id = null) {
      const idLine = id === null ? "" : `id: ${id}\n`;
      write(res, `${idLine}event: ${name}\ndata: ${JSON.stringify(data)}\n\n`);
    },
    end: () => void res.end(),
  };
}

/** A reader that does not keep up is cut off; it will come back and read afresh. */
function write(res: Response, text: string): void {
  if (res.writableLength > limits.liveBacklogBytes) res.destroy();
  else if (!res.writableEnded) res.write(text);
}
