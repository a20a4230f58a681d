/** A string of lamps on a serial line, here a TCP port: frames A5, count, three bytes a lamp, check sum; answered with 06 or 15. */
import type { Socket } from "node:net";
import type { Value } from "@bold-relay/core";
import { TcpDevice } from "./tcp-device.ts";

const START = 0xa5;
const ACK = Buffer.from([0x06]);
const NAK = Buffer.from([0x15]);
const NOISE = Buffer.from([0x7f]);

export class LampStringDevice extends TcpDevice {
  /** The colour of each lamp, as #rrggbb. */
  lamps: string[] = [];

  protected take(socket: Socket): void {
    let held = Buffer.alloc(0);
    socket.on("data", (piece: Buffer) => {
      held = Buffer.concat([held, piece]);
      for (let frame = frameIn(held); frame; frame = frameIn(held)) {
        held = held.subarray(frame.length);
        void this.obey(frame, socket);
      }
    });
  }

  private async obey(frame: Buffer, socket: Socket): Promise<void> {
    this.heard.push(frame.toString("hex"));
    if (this.fault === "silent") return;
    await this.dawdle();
    const body = frame.subarray(0, -1);
    const isWhole = body.reduce((sum, byte) => (sum + byte) & 0xff, 0) === frame.at(-1);
    if (this.fault === "refusing" || !isWhole) return void socket.write(NAK);
    this.lamps = Array.from({ length: frame.readUInt16BE(1) }, (_, lamp) => {
      return `#${frame.subarray(3 + 3 * lamp, 6 + 3 * lamp).toString("hex")}`;
    });
    const [contact] = this.contacts;
    if (contact) contact.value = patternOf(this.lamps);
    socket.write(this.fault === "garbling" ? NOISE : ACK);
  }
}

function frameIn(held: Buffer): Buffer | null {
  const start = held.indexOf(START);
  if (start !== 0 || held.length < 3) return null;
  const length = 4 + 3 * held.readUInt16BE(1);
  return held.length < length ? null : held.subarray(0, length);
}

/** The shortest run of colours that makes the whole string when it repeats. */
function patternOf(lamps: readonly string[]): Value {
  for (let length = 1; length < lamps.length; length += 1) {
    if (lamps.every((colour, index) => colour === lamps[index % length]))
      return lamps.slice(0, length).join(",") as Value;
  }
  return lamps.join(",") as Value;
}
