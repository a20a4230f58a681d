/** A serial line: a pseudo-terminal at our end, the stand-in's port at the other. Between the two is what the kernel does to a tty. */
import { spawn } from "node:child_process";

export interface SerialLine {
  /** The tty, like /dev/pts/3. */
  readonly path: string;
  stop(): Promise<void>;
}

/** @param port of the stand-in, on loopback */
export async function openSerialLine(port: number): Promise<SerialLine> {
  const child = spawn("socat", ["-d", "-d", "pty,raw,echo=0", `tcp:127.0.0.1:${port},nodelay`], {
    stdio: ["ignore", "ignore", "pipe"],
  });
  const ended = new Promise<void>((resolve) => child.once("close", () => resolve()));
  const path = await new Promise<string>((resolve, reject) => {
    let said = "";
    child.stderr.setEncoding("utf8").on("data", (text: string) => {
      said += text;
      const tty = /PTY is (\S+)/.exec(said)?.[1];
      if (tty && said.includes("starting data transfer loop")) resolve(tty);
    });
    child.once("error", reject);
    child.once("close", () => reject(new Error(`socat ended: ${said}`)));
  });
  return {
    path,
    async stop() {
      child.kill();
      await ended;
    },
  };
}
