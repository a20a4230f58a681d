/** One connection to a broker that keeps to the letter of the standard, or does not: what is written, and what is said of its end. */
import { once } from "node:events";
import { type AddressInfo, createServer, type Server, type Socket } from "node:net";
import { generate, type IPublishPacket, type Packet, parser } from "mqtt-packet";
import { afterEach, expect, it } from "vitest";
import { BrokerConnection, type ConnectionListener } from "../src/broker/broker-connection.ts";

const VERSION = { protocolVersion: 5 } as const;
const CONNACK = { cmd: "connack", reasonCode: 0, sessionPresent: false } as const;
const quiet: ConnectionListener = { onMessage: () => {}, onClose: () => {} };

let server: Server;
afterEach(() => {
  server.close();
});

/** A broker that does as it is told. */
async function broker(on: (packet: Packet, say: (packet: Packet) => void, socket: Socket) => void): Promise<string> {
  server = createServer((socket) => {
    const read = parser(VERSION);
    const say = (packet: Packet) => socket.write(generate(packet, VERSION));
    read.on("packet", (packet: Packet) => on(packet, say, socket));
    socket.on("data", (piece) => read.parse(piece));
    socket.on("error", () => socket.destroy());
  }).listen(0, "127.0.0.1");
  await once(server, "listening");
  return `mqtt://127.0.0.1:${(server.address() as AddressInfo).port}`;
}

function connect(url: string, listener: Partial<ConnectionListener> = {}): Promise<BrokerConnection> {
  const options = { access: { url }, clientId: "c", sessionExpiryS: 300, receiveMaximum: 100, largestBytes: 65_536 };
  return BrokerConnection.connect(options, { ...quiet, ...listener });
}

it("never sends more than the broker takes at once, and all of it in the end, in order", async () => {
  const seen: string[] = [];
  let open = 0;
  let most = 0;
  const url = await broker((packet, say) => {
    if (packet.cmd === "connect") say({ ...CONNACK, properties: { receiveMaximum: 3 } });
    if (packet.cmd !== "publish") return;
    open += 1;
    most = Math.max(most, open);
    seen.push(packet.payload.toString());
    setImmediate(() => {
      open -= 1;
      say({ cmd: "puback", messageId: packet.messageId ?? 0, reasonCode: 0 });
    });
  });
  const connection = await connect(url);
  const receipts = Array.from(
    { length: 50 },
    (_, index) =>
      new Promise<number>((resolve) => {
        connection.publish({ topic: "a", payload: Buffer.from(String(index)), qos: 1 }, resolve);
      }),
  );
  expect(await Promise.all(receipts)).toEqual(receipts.map(() => 0));
  expect([most, seen]).toEqual([3, receipts.map((_, index) => String(index))]);
  await connection.close();
});

it("asks for many filters in packets that the broker takes, and gives each the answer that is its own", async () => {
  const largest = 200;
  const sizes: number[] = [];
  const gone: string[] = [];
  const url = await broker((packet, say) => {
    if (packet.cmd === "connect") say({ ...CONNACK, properties: { maximumPacketSize: largest } });
    if (packet.cmd !== "subscribe" && packet.cmd !== "unsubscribe") return;
    sizes.push(generate(packet, VERSION).length);
    const messageId = packet.messageId ?? 0;
    if (packet.cmd === "unsubscribe") {
      gone.push(...packet.unsubscriptions);
      return say({ cmd: "unsuback", messageId, granted: packet.unsubscriptions.map(() => 0) });
    }
    const granted = packet.subscriptions.map(({ topic }) => (topic.endsWith("7") ? 135 : 1));
    say({ cmd: "suback", messageId, granted });
  });
  const connection = await connect(url);
  const filters = Array.from({ length: 300 }, (_, index) => `site/board-${index}/is/${index}`);
  const granted = await connection.subscribe(filters, { qos: 1 });
  expect(granted).toEqual(filters.map((filter) => (filter.endsWith("7") ? 135 : 1)));
  await connection.unsubscribe(filters);
  expect(gone).toEqual(filters);
  expect(Math.max(...sizes)).toBeLessThanOrEqual(largest);
  expect(sizes.length).toBeGreaterThan(60);
  await connection.close();
});

it("what comes in the same piece as the welcome is not lost", async () => {
  const acknowledged: number[] = [];
  const url = await broker((packet, _say, socket) => {
    if (packet.cmd === "puback") acknowledged.push(packet.messageId ?? 0);
    if (packet.cmd !== "connect") return;
    const message = {
      cmd: "publish",
      topic: "a",
      payload: "x",
      qos: 1,
      dup: false,
      retain: false,
      messageId: 7,
    } as const;
    socket.write(Buffer.concat([generate({ ...CONNACK, sessionPresent: true }, VERSION), generate(message, VERSION)]));
  });
  const heard = new Promise<IPublishPacket>((resolve, reject) => {
    connect(url, {
      onMessage: (message, connection) => {
        connection.acknowledge(message.messageId ?? 0);
        resolve(message);
      },
    }).catch(reject);
  });
  expect((await heard).payload.toString()).toBe("x");
  await expect.poll(() => acknowledged, { timeout: 20_000 }).toEqual([7]);
});

it("says why it is refused, or ended", async () => {
  const refused = await broker((_, say) => say({ ...CONNACK, reasonCode: 0x87 }));
  await expect(connect(refused)).rejects.toThrow("its user name and password do not count");
  server.close();
  const garbled = await broker((_packet, _say, socket) => socket.write("HTTP/1.1 400 Bad Request\r\n\r\n"));
  await expect(connect(garbled)).rejects.toThrow();
  server.close();
  const taken = await broker((packet, say) => {
    if (packet.cmd === "connect") say(CONNACK);
    if (packet.cmd === "subscribe") say({ cmd: "disconnect", reasonCode: 0x8e });
  });
  const why = new Promise<string>((resolve, reject) => {
    connect(taken, { onClose: resolve })
      .then((connection) => connection.subscribe(["a"], { qos: 1 }))
      .catch((error: Error) => expect(error.message).toBe("another client took over this client id"))
      .catch(reject);
  });
  expect(await why).toBe("another client took over this client id");
});

it("a receipt that never comes is never claimed", async () => {
  const url = await broker((packet, say, socket) => {
    if (packet.cmd === "connect") say(CONNACK);
    if (packet.cmd === "publish") socket.destroy();
  });
  const receipts: number[] = [];
  await new Promise<void>((resolve, reject) => {
    connect(url, { onClose: () => resolve() })
      .then((connection) =>
        connection.publish({ topic: "a", payload: Buffer.from("1"), qos: 1 }, (code) => receipts.push(code)),
      )
      .catch(reject);
  });
  expect(receipts).toEqual([]);
});
