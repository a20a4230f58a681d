/** Outside services on loopback: a sheet, and whoever is called back. */
import { createServer, type IncomingHttpHeaders, type IncomingMessage } from "node:http";
import type { AddressInfo } from "node:net";

export interface Outside {
  readonly place: string;
  /** What is served to GET, and how often it was asked for. */
  sheet: string;
  gets: number;
  /** Bodies that were posted or put, oldest first. */
  readonly taken: {
    readonly method: string;
    readonly path: string;
    readonly body: string;
    readonly headers: IncomingHttpHeaders;
  }[];
  /** Resolves once so many bodies have come. */
  untilTaken(count: number): Promise<void>;
  /** Resolves once the sheet was asked for so often from now on. */
  untilRead(times: number): Promise<void>;
  stop(): Promise<void>;
}

export async function startOutside(): Promise<Outside> {
  let wake: (() => void)[] = [];
  const told = () => {
    const waiting = wake;
    wake = [];
    for (const one of waiting) one();
  };
  const until = async (isSo: () => boolean) => {
    while (!isSo()) await new Promise<void>((resolve) => wake.push(resolve));
  };
  const server = createServer(async (req, res) => {
    const body = await bodyOf(req);
    if (req.method === "GET") {
      outside.gets += 1;
      const etag = `"${outside.sheet.length}-${outside.sheet.slice(-20).replace(/\W/g, "")}"`;
      if (req.headers["if-none-match"] === etag) res.writeHead(304).end();
      else res.writeHead(200, { etag }).end(outside.sheet);
    } else {
      outside.taken.push({ method: req.method ?? "", path: req.url ?? "", body, headers: req.headers });
      res.writeHead(204).end();
    }
    told();
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  const outside: Outside = {
    place: `127.0.0.1:${(server.address() as AddressInfo).port}`,
    sheet: "",
    gets: 0,
    taken: [],
    untilTaken: (count) => until(() => outside.taken.length >= count),
    untilRead(times) {
      const enough = outside.gets + times;
      return until(() => outside.gets >= enough);
    },
    stop: () =>
      new Promise((resolve) => {
        server.close(() => resolve());
        server.closeAllConnections();
      }),
  };
  return outside;
}

async function bodyOf(req: IncomingMessage): Promise<string> {
  const chunks: Buffer[] = [];
  for await (const chunk of req as AsyncIterable<Buffer>) chunks.push(chunk);
  return Buffer.concat(chunks).toString("utf8");
}
