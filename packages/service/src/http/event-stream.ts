/** A connection of server-sent events (WHATWG HTML, 9.2): bounded, kept alive, and over when the caller's right is. */
import type { Response } from "express";
import type { Admitted } from "../auth/caller.ts";
import type { OpenStreams, StreamKind } from "../auth/open-streams.ts";
import { limits } from "../platform/config/limits.ts";

const HEARTBEAT_MS = 15_000;

export interface EventStream {
  send(name: string, data: unknown, id?: string | null): void;
  end(): void;
}

interface EventStreamDeps {
  readonly streams: OpenStreams;
  readonly kind: StreamKind;
  readonly caller: Admitted;
}

/**
 * @param onClose called once, however it ended
 * @throws RelayError service-busy or too-many-streams
 */
export function openEventStream(
  res: Response,
  { streams, kind, caller }: EventStreamDeps,
  onClose: () => void,
): EventStream {
  const over = streams.open(kind, caller, () => void res.end());
  res.writeHead(200, {
    "content-type": "text/event-stream; charset=utf-8",
    "cache-control": "no-store",
    "x-accel-buffering": "no",
  });
  const heartbeat = setInterval(() => write(res, ": still here\n\n"), HEARTBEAT_MS);
  res.on("close", () => {
    clearInterval(heartbeat);
    over();
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
