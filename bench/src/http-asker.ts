/**
 * One asker's connection: keep-alive HTTP/1.1 over a plain socket, one call at a time. On a machine that everything shares, a
 * full HTTP client would take more of it than the service that is measured.
 */
import { connect, type Socket } from "node:net";

export interface HttpAnswer {
  readonly status: number;
  readonly body: string;
}

const HEAD_END = Buffer.from("\r\n\r\n");

export class HttpAsker {
  private readonly url: URL;
  private socket: Socket;
  private readonly head: string;
  private pieces: Buffer = Buffer.alloc(0);
  private waiting: { resolve: (answer: HttpAnswer) => void; reject: (error: Error) => void } | null = null;

  /** @param headers lines that every call has, without their line ends */
  constructor(url: URL, headers: readonly string[]) {
    const lines = [`POST ${url.pathname} HTTP/1.1`, `host: ${url.host}`, "content-type: application/json", ...headers];
    this.head = `${lines.join("\r\n")}\r\n`;
    this.url = url;
    this.socket = this.connected();
  }

  /** @param headers further lines of this call, each with its line end */
  call(body: string, headers: string): Promise<HttpAnswer> {
    // The other side closes what was idle for long.
    if (this.socket.destroyed) this.socket = this.connected();
    return new Promise((resolve, reject) => {
      this.waiting = { resolve, reject };
      this.socket.write(`${this.head}${headers}content-length: ${Buffer.byteLength(body)}\r\n\r\n${body}`);
    });
  }

  close(): void {
    this.socket.destroy();
  }

  private connected(): Socket {
    const { hostname: host, port } = this.url;
    const socket = connect({ host, port: Number(port), noDelay: true });
    socket.on("data", (piece: Buffer) => this.read(piece));
    socket.on("error", (error) => this.waiting?.reject(error));
    socket.on("close", () => this.waiting?.reject(new Error("the service closed the connection")));
    return socket;
  }

  private read(piece: Buffer): void {
    this.pieces = this.pieces.length === 0 ? piece : Buffer.concat([this.pieces, piece]);
    const headEnd = this.pieces.indexOf(HEAD_END);
    if (headEnd < 0) return;
    const head = this.pieces.toString("latin1", 0, headEnd);
    const length = Number(/content-length: (\d+)/i.exec(head)?.[1]);
    const bodyAt = headEnd + HEAD_END.length;
    if (this.pieces.length < bodyAt + length) return;
    const answer = { status: Number(head.slice(9, 12)), body: this.pieces.toString("utf8", bodyAt, bodyAt + length) };
    this.pieces = this.pieces.subarray(bodyAt + length);
    const { waiting } = this;
    this.waiting = null;
    waiting?.resolve(answer);
  }
}
