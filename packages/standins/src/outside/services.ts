/**
 * Outside services of the demo on one port: a spreadsheet as CSV (`/remote.csv`), what was written back to it
 * (`/states.csv`), and a chat room that takes replies (`/room`).
 */
import { createServer, type IncomingMessage, type Server } from "node:http";

const MOST_LINES = 100;
const EMPTY = "channel,want\n";

export class OutsideServices {
  private readonly port: number;
  private readonly said: string[] = [];
  private sheet = EMPTY;
  private states = "";
  private server: Server | null = null;

  constructor(port: number) {
    this.port = port;
  }

  async start(): Promise<void> {
    const server = createServer((req, res) => {
      this.answer(req).then(
        ({ status, text, etag }) => res.writeHead(status, etag ? { etag } : {}).end(text),
        () => res.writeHead(400).end(),
      );
    });
    this.server = server;
    await new Promise<void>((resolve) => server.listen(this.port, "127.0.0.1", resolve));
  }

  async stop(): Promise<void> {
    this.server?.closeAllConnections();
    this.server?.close();
  }

  private async answer(req: IncomingMessage): Promise<{ status: number; text: string; etag?: string }> {
    const body = await bodyOf(req);
    const [path = ""] = (req.url ?? "").split("?");
    if (path === "/remote.csv" && req.method === "PUT") this.sheet = body;
    if (path === "/states.csv" && req.method === "PUT") this.states = body;
    if (path === "/room" && req.method === "POST") this.hear(body);
    if (req.method !== "GET") return { status: 204, text: "" };
    const text = { "/remote.csv": this.sheet, "/states.csv": this.states, "/room": `${this.said.join("\n")}\n` }[path];
    if (text === undefined) return { status: 404, text: "" };
    const etag = `"${Buffer.from(text).toString("base64url").slice(-40)}-${text.length}"`;
    return req.headers["if-none-match"] === etag ? { status: 304, text: "" } : { status: 200, text, etag };
  }

  private hear(body: string): void {
    const { room, to, text } = JSON.parse(body) as Record<string, string>;
    this.said.push(`${room} to ${to}: ${text}`);
    if (this.said.length > MOST_LINES) this.said.shift();
  }
}

async function bodyOf(req: IncomingMessage): Promise<string> {
  const chunks: Buffer[] = [];
  for await (const chunk of req as AsyncIterable<Buffer>) chunks.push(chunk);
  return Buffer.concat(chunks).toString("utf8");
}
