#!/usr/bin/env node
/**
 * A lamp that Bold Relay commands over MQTT. Needs the package mqtt (npm install mqtt).
 *
 * Settings: BROKER, PORT, MQTT_USER, MQTT_PASSWORD, CLIENT_ID (default: the user); CA, a PEM file, for TLS;
 * TOPIC, the channel's: site/device/channel.
 * A press of its own button is `kill -USR2 PID` (Node.js keeps USR1 for its debugger).
 */
import { randomUUID } from "node:crypto";
import { readFileSync } from "node:fs";
import mqtt from "mqtt";

const { BROKER = "127.0.0.1", PORT = "1883", MQTT_USER, MQTT_PASSWORD, CA, TOPIC = "" } = process.env;
const { CLIENT_ID = MQTT_USER ?? TOPIC } = process.env;
const here = `${TOPIC.slice(0, TOPIC.lastIndexOf("/"))}/here`;
const boot = randomUUID(); // a new one with every power-up

// The power-up rule of this lamp: it starts off.
let lamp = { to: "off", by: "boot" };
let timer;

const client = mqtt.connect(`${CA ? "mqtts" : "mqtt"}://${BROKER}:${PORT}`, {
  ...(CA ? { ca: readFileSync(CA) } : {}),
  clientId: CLIENT_ID,
  username: MQTT_USER,
  password: MQTT_PASSWORD,
  keepalive: 15,
  // The broker says it when we are gone.
  will: { topic: here, payload: JSON.stringify({ up: false }), qos: 1, retain: true },
});

client.on("connect", () => {
  client.subscribe(`${TOPIC}/do`, { qos: 1 });
  say(here, { up: true, boot }, true);
  say(`${TOPIC}/is`, { to: lamp.to, by: lamp.by }, true);
});
client.on("error", (error) => {
  console.error(error.message);
  process.exit(1);
});

client.on("message", (_topic, payload) => {
  const command = read(payload);
  // Not a command: without an id there is nothing to answer.
  if (typeof command?.id !== "string") return;
  const { id, to, for: forMs } = command;
  if (to !== "on" && to !== "off") return say(`${TOPIC}/done`, { id, ok: false, code: 2, why: "on or off" });
  say(`${TOPIC}/done`, { id, ok: true, code: 1 });
  switchTo({ to, by: "command", id }, forMs);
});

process.on("SIGUSR2", () => switchTo({ to: lamp.to === "on" ? "off" : "on", by: "hand" }));

/** Switches the relay, then reports what it is now. */
function switchTo(next, forMs) {
  clearTimeout(timer); // a newer command ends the time of an older one
  lamp = next; // here a real lamp sets its output pin
  if (next.to === "on" && forMs) timer = setTimeout(() => switchTo({ to: "off", by: "timer" }), forMs);
  say(`${TOPIC}/is`, lamp, true);
}

function say(topic, message, retain = false) {
  client.publish(topic, JSON.stringify(message), { qos: 1, retain });
}

function read(payload) {
  try {
    return JSON.parse(payload.toString());
  } catch {
    return null;
  }
}
