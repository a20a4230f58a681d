/** The full path by MQTT: a message at a topic inlet, durable, published, acknowledged, durable, answered on a topic. */
import { createClient } from "@bold-relay/api";
import { eventually } from "@bold-relay/rig";
import { connectAsync } from "mqtt";
import { channelAddress } from "./bench-site.ts";
import { withoutDelay } from "./connection.ts";
import type { Ask } from "./load.ts";

export interface TopicPathOptions {
  readonly url: string;
  /** Of a member who may make inlets. */
  readonly key: string;
  readonly brokerUrl: string;
  readonly username: string;
  readonly password: string;
}

export interface TopicPath {
  readonly ask: Ask;
  stop(): Promise<void>;
}

export async function openTopicPath({ url, key, brokerUrl, username, password }: TopicPathOptions): Promise<TopicPath> {
  const service = createClient({ baseUrl: url, key });
  const route = {
    when: { topic: "ask/{board}/{relay}" },
    do: { target: "bench/{board}/{relay}", action: "{payload}" },
  };
  const inlet = { slug: "bench-topic", name: "Bench by topic", kind: "topic", site: null } as const;
  await service.saveInlet({ ...inlet, perMinute: 6_000_000, settings: { answer: true }, routes: [route] }, null);
  const isUp = async () => (await service.inlets()).some(({ slug, up }) => slug === inlet.slug && up === true);
  if (!(await eventually(isUp, 10_000, () => false))) throw new Error("The topic inlet does not come up.");
  const client = withoutDelay(
    await connectAsync(brokerUrl, { username, password, protocolVersion: 5, clientId: "topic-path" }),
  );
  const waiting = new Map<string, (answer: string) => void>();
  client.on("message", (topic, payload) => {
    waiting.get(topic)?.(payload.toString());
    waiting.delete(topic);
  });
  await client.subscribeAsync("answer/+", { qos: 1 });
  return {
    ask: (worker, turn) =>
      new Promise((resolve, reject) => {
        const responseTopic = `answer/${worker}`;
        waiting.set(responseTopic, (answer) => {
          if (answer.includes('"outcome":"delivered"')) resolve();
          else reject(new Error(`answered ${answer.slice(0, 300)}`));
        });
        const topic = channelAddress("taker", worker).replace("bench/", "ask/");
        client.publish(topic, turn % 2 === 0 ? "on" : "off", { qos: 1, properties: { responseTopic } }, (error) => {
          if (error) reject(error);
        });
      }),
    stop: () => client.endAsync(),
  };
}
