/** A line that stands still loses nothing and keeps the order; one that stops breaks what goes over it. */
import { once } from "node:events";
import { type AddressInfo, connect, createServer, type Socket } from "node:net";
import { afterAll, beforeAll, expect, it } from "vitest";
import { type Line, startLine } from "../src/index.ts";

const server = createServer((socket) => {
  arrived.push(socket);
  socket.on("data", (bytes) => {
    heard += String(bytes);
    server.emit("heard");
  });
});
const arrived: Socket[] = [];
let heard = "";
let line: Line;

beforeAll(async () => {
  server.listen(0, "127.0.0.1");
  await once(server, "listening");
  line = await startLine(() => (server.address() as AddressInfo).port);
});
afterAll(async () => {
  await line.stop();
  server.close();
});

async function until(text: string): Promise<void> {
  while (!heard.endsWith(text)) await once(server, "heard");
}

it("what was sent while it stood still arrives afterwards, in its order, and what comes back too", async () => {
  const socket = connect(line.port, "127.0.0.1");
  socket.write("before;");
  await until("before;");
  line.delayMs = Number.POSITIVE_INFINITY;
  for (let at = 0; at < 5; at += 1) socket.write(`${at};`);
  // A connection of its own gets through the line's process after what stands still in it.
  line.delayMs = 20;
  socket.write("after;");
  await until("after;");
  expect(heard).toBe("before;0;1;2;3;4;after;");
  const back = once(socket, "data");
  arrived[0]?.write("answer");
  expect(String((await back)[0])).toBe("answer");
  line.delayMs = 0;
  socket.end();
  await once(socket, "close");
});

it("one that stops closes what goes over it", async () => {
  const socket = connect(line.port, "127.0.0.1");
  await once(socket, "connect");
  const closed = once(socket, "close");
  socket.on("error", () => {});
  await line.stop();
  await closed;
  line = await startLine(() => (server.address() as AddressInfo).port);
});
