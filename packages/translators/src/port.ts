/** Serial lines: a tty, or a TCP port that carries the same bytes. */
import { open } from "node:fs/promises";
import { connect } from "node:net";
import type { Duplex } from "node:stream";

/**
 * @param port a tty like /dev/ttyUSB0, set to its speed and to raw bytes by whoever mounts it, or tcp://host:port
 * @throws Error when it cannot be opened
 */
export async function openPort(port: string): Promise<Duplex> {
  if (!port.startsWith("tcp://")) {
    const { ReadStream } = await import("node:tty");
    const handle = await open(port, "r+");
    if (!(await handle.stat()).isCharacterDevice()) {
      await handle.close();
      throw new Error(`${port} is no serial line`);
    }
    const stream = new ReadStream(handle.fd);
    // The stream opens the line anew for itself. Nobody else closes this one but the memory manager, which warns of it.
    stream.once("close", () => void handle.close());
    return stream;
  }
  const { hostname, port: number } = new URL(port);
  return new Promise((resolve, reject) => {
    const socket = connect({ host: hostname, port: Number(number), noDelay: true }, () => resolve(socket));
    socket.once("error", reject);
  });
}
