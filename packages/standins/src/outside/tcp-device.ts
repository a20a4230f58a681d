/** Simulated devices behind a TCP port. */
import { type AddressInfo, createServer, type Server, type Socket } from "node:net";
import { OutsideDevice, type OutsideOptions } from "./contacts.ts";

export abstract class TcpDevice extends OutsideDevice {
  port: number;
  private server: Server | null = null;
  private readonly callers = new Set<Socket>();

  /** @param port 0 for any free one */
  constructor(options: OutsideOptions, port = 0) {
    super(options);
    this.port = port;
  }

  /** Somebody has connected. */
  protected abstract take(socket: Socket): void;

  protected async plugIn(): Promise<void> {
    const server = createServer((socket) => {
      this.callers.add(socket);
      socket.setNoDelay(true);
      socket.on("error", () => {});
      socket.on("close", () => this.callers.delete(socket));
      this.take(socket);
    });
    this.server = server;
    await new Promise<void>((resolve) => server.listen(this.port, "127.0.0.1", resolve));
    this.port = (server.address() as AddressInfo).port;
  }

  protected async pullOut(): Promise<void> {
    for (const caller of this.callers) caller.destroy();
    const { server } = this;
    this.server = null;
    await new Promise<void>((resolve) => (server ? server.close(() => resolve()) : resolve()));
  }
}
