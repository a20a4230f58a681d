/** A plain TCP balancer on loopback: each new connection goes to the next address, or the one after it where nobody listens. */
import { type AddressInfo, connect, createServer, type Socket } from "node:net";

export interface Balancer {
  /** http://127.0.0.1:… */
  readonly url: string;
  stop(): Promise<void>;
}

/** @param urls the addresses that it shares connections out among */
export async function startBalancer(urls: readonly string[]): Promise<Balancer> {
  const open = new Set<Socket>();
  let turn = 0;

  const join = (incoming: Socket, left: number): void => {
    const { hostname, port } = new URL(urls[turn++ % urls.length] ?? "");
    const onward = connect({ host: hostname, port: Number(port) });
    const onRefused = () => {
      if (left > 1) join(incoming, left - 1);
      else incoming.destroy();
    };
    onward.once("error", onRefused);
    onward.once("connect", () => {
      onward.off("error", onRefused);
      open.add(onward);
      incoming.pipe(onward).pipe(incoming);
      for (const [one, other] of [
        [incoming, onward],
        [onward, incoming],
      ] as const) {
        one.on("error", () => other.destroy());
        one.once("close", () => {
          open.delete(one);
          other.destroy();
        });
      }
    });
  };

  const server = createServer((incoming) => {
    open.add(incoming);
    incoming.on("error", () => incoming.destroy());
    join(incoming, urls.length);
  });
  await new Promise<void>((resolve) => {
    server.listen(0, "127.0.0.1", resolve);
  });
  const { port } = server.address() as AddressInfo;
  return {
    url: `http://127.0.0.1:${port}`,
    stop() {
      for (const socket of open) socket.destroy();
      return new Promise((resolve) => {
        server.close(() => resolve());
      });
    },
  };
}
