#!/usr/bin/env node
/**
 * Publishes to a topic inlet, and waits for its answer on a response topic (MQTT 5). Needs the package mqtt (npm install mqtt).
 *
 * The inlet needs settings: { answer: true }.
 * Settings: BROKER, PORT, MQTT_USER, MQTT_PASSWORD; TOPIC; PAYLOAD.
 */
import { randomBytes, randomUUID } from "node:crypto";
import mqtt from "mqtt";

const { BROKER = "127.0.0.1", PORT = "1883", MQTT_USER, MQTT_PASSWORD, TOPIC = "", PAYLOAD = "" } = process.env;
const responseTopic = `answers/${randomUUID()}`;
const correlationData = randomBytes(16);

const timeout = setTimeout(() => {
  console.error("No answer within 15 s.");
  process.exit(1);
}, 15_000);

const client = await mqtt.connectAsync(`mqtt://${BROKER}:${PORT}`, {
  username: MQTT_USER,
  password: MQTT_PASSWORD,
  protocolVersion: 5,
});
client.on("message", (_topic, payload, { properties }) => {
  if (!properties?.correlationData?.equals(correlationData)) return;
  console.log(payload.toString());
  clearTimeout(timeout);
  client.end();
});
// First the subscription stands, then the question goes out.
await client.subscribeAsync(responseTopic, { qos: 1 });
await client.publishAsync(TOPIC, PAYLOAD, { qos: 1, properties: { responseTopic, correlationData } });
