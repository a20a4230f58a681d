/** The raw path: QoS 1 out, echo, QoS 1 back; the same library and broker, nothing journaled. */
import { connectAsync } from "mqtt";
import { withoutDelay } from "./connection.ts";
import type { Ask } from "./load.ts";

export interface RawPath {
  readonly ask: Ask;
  stop(): Promise<void>;
}

export async function openRawPath(url: string, username: string, password: string): Promise<RawPath> {
  const client = withoutDelay(
    await connectAsync(url, { username, password, protocolVersion: 5, clientId: "raw-path" }),
  );
  const waiting = new Map<string, () => void>();
  client.on("message", (_topic, payload) => {
    const id = payload.toString();
    waiting.get(id)?.();
    waiting.delete(id);
  });
  await client.subscribeAsync("raw/+/done", { qos: 1 });
  return {
    ask: (worker, turn) =>
      new Promise((resolve, reject) => {
        const id = `${worker}-${turn}-0123456789abcdef0123456789`;
        waiting.set(id, resolve);
        client.publish(`raw/${worker}/do`, id, { qos: 1 }, (error) => error && reject(error));
      }),
    stop: () => client.endAsync(),
  };
}
