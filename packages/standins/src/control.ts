/** A small loopback HTTP address at which a person or a test switches faults on and presses wall switches. */
import { createServer, type IncomingMessage, type ServerResponse } from "node:http";
import type { AddressInfo } from "node:net";
import { setTimeout } from "node:timers/promises";
import type { StandIn } from "./outside/index.ts";

export interface Control {
  readonly port: number;
  stop(): Promise<void>;
}

/** @param port 0 for any free one */
export async function startControl(boards: readonly StandIn[], port: number): Promise<Control> {
  const server = createServer((req, res) => {
    answer(req, res, boards).catch((error: unknown) => {
      res
        .writeHead(400, { "content-type": "text/plain" })
        .end(`${error instanceof Error ? error.message : String(error)}\n`);
    });
  });
  await new Promise<void>((resolve) => server.listen(port, "127.0.0.1", resolve));
  return {
    port: (server.address() as AddressInfo).port,
    stop: () => new Promise((resolve) => server.close(() => resolve())),
  };
}

/**
 * GET / lists the boards; POST /<site>/<device>/fault/<fault>; POST /<site>/<device>/flip/<channel>;
 * POST /<site>/<device>/press/<channel>/<once, twice or long>; POST /<site>/<device>/power-cut. */
async function answer(req: IncomingMessage, res: ServerResponse, boards: readonly StandIn[]): Promise<void> {
  req.resume();
  const states = () => Object.fromEntries(boards.map((board) => [board.name, board.state]));
  if (req.method === "POST") {
    const [site, device, verb, word = "", how = "once"] = (req.url ?? "").split("/").slice(1).map(decodeURIComponent);
    const board = boards.find((one) => one.name === `${site}/${device}`);
    if (!board)
      throw new Error(`There is no stand-in “${site}/${device}”. Boards: ${boards.map((one) => one.name).join(", ")}.`);
    if (verb === "flip") await board.flip(word);
    else if (verb === "press") await press(board, word, how);
    else if (verb === "power-cut") await board.powerCut();
    else if (verb === "fault" && board.faults.includes(word)) await board.setFault(word);
    else throw new Error(`“${word}” is not a fault of ${board.name}. Faults: ${board.faults.join(", ")}.`);
  }
  res.writeHead(200, { "content-type": "application/json" }).end(JSON.stringify(states()));
}

/** How long a finger stays on a button, and how long it is off it between two presses, ms. */
const [SHORT_MS, LONG_MS, BETWEEN_MS] = [120, 1_200, 150];

/** A finger on a button: it is made, held for a while, and let go. @throws Error when it is no button, or no way to press one */
async function press(board: StandIn, channel: string, how: string): Promise<void> {
  if (how !== "once" && how !== "twice" && how !== "long")
    throw new Error(`A button is pressed once, twice or long, not “${how}”.`);
  for (let left = how === "twice" ? 2 : 1; left > 0; left -= 1) {
    await board.flip(channel);
    await setTimeout(how === "long" ? LONG_MS : SHORT_MS);
    await board.flip(channel);
    if (left > 1) await setTimeout(BETWEEN_MS);
  }
}
