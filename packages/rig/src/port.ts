/** Free loopback ports, and waiting for one to answer. */
import { connect, createServer } from "node:net";

/** A free port: the preferred one if it is free, else any. */
export async function freePort(preferred = 0): Promise<number> {
  return (await tryPort(preferred)) ?? (await tryPort(0)) ?? 0;
}

/** The first free one of these; any free one where all are taken. */
export async function firstFree(preferred: readonly number[]): Promise<number> {
  for (const port of preferred) if ((await tryPort(port)) !== null) return port;
  return freePort();
}

function tryPort(port: number): Promise<number | null> {
  return new Promise((resolve) => {
    const server = createServer();
    server.once("error", () => resolve(null));
    server.listen(port, "127.0.0.1", () => {
      const address = server.address();
      const bound = typeof address === "object" && address !== null ? address.port : null;
      server.close(() => resolve(bound));
    });
  });
}

/** Whether something answers on this loopback port. */
export function answers(port: number): Promise<boolean> {
  return new Promise((resolve) => {
    const socket = connect(port, "127.0.0.1");
    socket.once("connect", () => {
      socket.destroy();
      resolve(true);
    });
    socket.once("error", () => resolve(false));
  });
}

/** Looks again and again until it is so; false when time is up or `inVain` says that waiting is in vain. */
export async function eventually(
  isSo: () => Promise<boolean>,
  withinMs: number,
  inVain = () => false,
): Promise<boolean> {
  const end = performance.now() + withinMs;
  while (performance.now() < end && !inVain()) {
    if (await isSo()) return true;
    await new Promise((resolve) => setTimeout(resolve, 25));
  }
  return false;
}
