/** A stream of JSON lines to another instance: it says something every second, and ends for whoever reads too slowly. */
import type { ServerResponse } from "node:http";

const SAY_EVERY_MS = 1_000;
/** Whoever reads slower has the stream ended, and begins anew, bytes. */
const MOST_WAITING = 4_000_000;

/**
 * Writes until the other side goes.
 *
 * @param begin is given the way to send a line and to end the stream; returns what ends its own part
 */
export function serveLines(
  res: ServerResponse,
  begin: (send: (line: object) => void, end: () => void) => () => void,
): void {
  res.writeHead(200, { "content-type": "application/jsonl", "cache-control": "no-store" });
  res.flushHeaders();
  let gathered = "";
  const flush = () => {
    if (gathered === "" || res.destroyed) return;
    res.write(gathered);
    gathered = "";
    if (res.writableLength > MOST_WAITING) res.destroy();
  };
  const send = (line: object) => {
    // Lines of one turn of the event loop share one write.
    if (gathered === "") setImmediate(flush);
    gathered += `${JSON.stringify(line)}\n`;
  };
  const endOwn = begin(send, () => res.end());
  const timer = setInterval(() => res.write("\n"), SAY_EVERY_MS);
  res.once("close", () => {
    clearInterval(timer);
    endOwn();
  });
}
