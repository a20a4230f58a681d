/**
 * The echo device, a process of its own: answers `raw/<n>/do` with one message, and `<site>/<device>/<channel>/do`
 * as a well-behaved board does: with an acknowledgement, and with a report unless it is a taker.
 */
import { connectAsync } from "mqtt";
import { withoutDelay } from "./connection.ts";

const [url = "", username = "", password = ""] = process.argv.slice(2);
const client = withoutDelay(
  await connectAsync(url, { username, password, protocolVersion: 5, clientId: "echo-device" }),
);

client.on("message", (topic, payload) => {
  const base = topic.slice(0, -"/do".length);
  if (topic.startsWith("raw/")) {
    client.publish(`${base}/done`, payload, { qos: 1 });
    return;
  }
  const { id, to } = JSON.parse(payload.toString()) as { id: string; to: string | number };
  client.publish(`${base}/done`, `{"id":"${id}","ok":true,"code":1}`, { qos: 1 });
  if (topic.includes("/taker-")) return;
  client.publish(`${base}/is`, `{"to":${JSON.stringify(to)},"by":"command","id":"${id}"}`, { qos: 1, retain: true });
});
await client.subscribeAsync(["raw/+/do", "+/+/+/do"], { qos: 1 });
process.send?.("ready");
