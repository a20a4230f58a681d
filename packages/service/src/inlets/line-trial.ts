/** Typing one line at an inlet's own port, as a person would. */
import { connect } from "node:net";
import type { Exchange } from "./kind.ts";
import { LONGEST_SHOWN, TRIAL_WITHIN_MS } from "./trial-exchange.ts";

export async function lineTrial(
  address: { readonly host: string; readonly port: number },
  line: string,
  key: string,
): Promise<Exchange> {
  const host = address.host === "0.0.0.0" ? "127.0.0.1" : address.host;
  const socket = connect({ host, port: address.port });
  socket.setTimeout(TRIAL_WITHIN_MS, () => socket.destroy(new Error("it took too long")));
  let heard = "";
  const ends = (end: string) =>
    new Promise<void>((resolve, reject) => {
      const look = () => (heard.endsWith(end) ? resolve() : undefined);
      socket
        .on("data", look)
        .once("error", reject)
        .once("close", () => resolve());
      look();
    });
  socket.on("data", (piece: Buffer) => {
    heard = (heard + piece.toString("utf8")).slice(-LONGEST_SHOWN);
  });
  try {
    await ends("Key: ");
    heard = "";
    socket.write(`${key}\r\n`);
    await ends("> ");
    heard = "";
    socket.write(`${line}\r\n`);
    await ends("> ");
    return { sent: line, got: heard.replace(/> $/, "").trim() };
  } catch (error) {
    return { sent: line, got: `Nothing: ${(error as Error).message}.` };
  } finally {
    socket.destroy();
  }
}
