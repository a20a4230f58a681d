/** Boards that are played by a test: what they hear is kept, what they say is said when the test says so. No codec of ours in it. */
import type { MqttClient } from "mqtt";
import type { World } from "./world.ts";

export interface ScriptedBoard {
  /** What came on its command topics, oldest first. */
  readonly heard: { readonly topic: string; readonly payload: string }[];
  readonly mqtt: MqttClient;
  say(topic: string, payload: string | Uint8Array, retain?: boolean): Promise<void>;
  /** Resolves when so many commands have come in all. */
  hears(count: number): Promise<void>;
}

/** @param obey what its firmware does by itself when it hears something */
export async function scriptedBoard(
  world: World,
  listens: readonly string[],
  obey: (payload: string, board: ScriptedBoard, topic: string) => void = () => {},
): Promise<ScriptedBoard> {
  const mqtt = await world.listener();
  const waiting: { count: number; done: () => void }[] = [];
  const board: ScriptedBoard = {
    heard: [],
    mqtt,
    async say(topic, payload, retain = false) {
      await mqtt.publishAsync(topic, Buffer.from(payload as string), { qos: 1, retain });
    },
    hears: (count) =>
      new Promise((done) => {
        if (board.heard.length >= count) done();
        else waiting.push({ count, done });
      }),
  };
  mqtt.on("message", (topic, payload) => {
    board.heard.push({ topic, payload: payload.toString() });
    obey(payload.toString(), board, topic);
    for (const one of waiting) if (board.heard.length >= one.count) one.done();
  });
  if (listens.length > 0) await mqtt.subscribeAsync([...listens], { qos: 1 });
  return board;
}
