/** A serial line stays open for as long as its translator has it, whatever the memory manager does meanwhile. */
import { once } from "node:events";
import { type AddressInfo, createServer, type Socket } from "node:net";
import { setFlagsFromString } from "node:v8";
import { runInNewContext } from "node:vm";
import { afterAll, beforeAll, expect, it } from "vitest";
import { openPort } from "../../translators/src/port.ts";
import { openSerialLine, type SerialLine } from "./support/serial-line.ts";

const server = createServer();
let line: SerialLine;
let far: Socket;

beforeAll(async () => {
  server.listen(0, "127.0.0.1");
  await once(server, "listening");
  const joined = once(server, "connection");
  line = await openSerialLine((server.address() as AddressInfo).port);
  [far] = (await joined) as [Socket];
});
afterAll(async () => {
  await line.stop();
  far.destroy();
  server.close();
});

it("after memory was collected, what is said at either end still arrives at the other, and nothing was closed by that", async () => {
  const port = await openPort(line.path);
  setFlagsFromString("--expose-gc");
  const collect = runInNewContext("gc") as () => void;
  const warned: string[] = [];
  const onWarning = ({ message }: Error) => warned.push(message);
  process.on("warning", onWarning);
  // A handle that nobody holds is closed some turns after it was collected.
  for (let round = 0; round < 40; round += 1) {
    collect();
    const [said, answered] = [once(far, "data"), once(port, "data")];
    port.write(`asked ${round}`);
    far.write(`told ${round}`);
    expect(String((await said)[0])).toBe(`asked ${round}`);
    expect(String((await answered)[0])).toBe(`told ${round}`);
  }
  const closed = once(port, "close");
  port.destroy();
  await closed;
  process.off("warning", onWarning);
  expect(warned).toEqual([]);
});
