/**
 * Trying an inlet for real: the service calls its own address as an outside caller would, through the socket, with a key or a
 * signature, and shows word for word what it sent and what it got. What it asks is done.
 */
import { randomUUID } from "node:crypto";
import { connect } from "node:net";
import { setTimeout as pause } from "node:timers/promises";
import { type Arrival, RelayError } from "@bold-relay/core";
import { signatureOf } from "../auth/signature.ts";
import { LineInlet } from "./kinds/line.ts";
import { SheetInlet } from "./kinds/sheet.ts";
import type { InletInstance } from "./registry.ts";

export interface TrialDeps {
  /** Where this instance listens. */
  readonly url: string;
  readonly publish: (topic: string, payload: Uint8Array) => Promise<void>;
}

/** One message there and back. */
export interface Exchange {
  readonly sent: string;
  readonly got: string;
}

const WITHIN_MS = 15_000;
const LONGEST_SHOWN = 4_000;
/** How long a message on a topic is given to become a request, ms. */
const TOPIC_MS = 500;

/** @throws RelayError bad-request when the arrival lacks what this kind needs */
export async function tryInlet(
  instance: InletInstance,
  arrival: Partial<Arrival>,
  key: string | null,
  deps: TrialDeps,
): Promise<Exchange[]> {
  const { slug, kind, settings = {} } = instance.inlet.description;
  const { fields, text = "" } = arrival;
  const post = (path: string, body: unknown) => httpTrial(instance, path, body, key, deps);
  switch (kind) {
    case "web":
      return [await post(slug, needed(fields, "what is asked, as fields: target and action"))];
    case "hook":
      return [await post(slug, fields ?? needed(text || undefined, "fields or text"))];
    case "call": {
      const { target, argument } = (fields ?? {}) as { target?: string; argument?: string };
      return [
        await post(`${slug}/${encodeURIComponent(needed(target, "fields with target and argument"))}`, argument ?? ""),
      ];
    }
    case "chat":
      return [await post(slug, fields ?? chatBody(arrival, settings))];
    case "keypad":
      return keypadTrial(needed(arrival.digits, "the keys that are pressed"), (body) => post(slug, body));
    case "topic":
      return [await topicTrial(needed(arrival.topic, "the topic"), arrival, deps)];
    case "line":
      return [await lineTrial(instance, text ?? "", needed(key, "one of the inlet's keys"))];
    case "sheet":
      return [await sheetTrial(instance)];
  }
}

function needed<Given>(given: Given | null | undefined, what: string): Given {
  if (given === null || given === undefined)
    throw new RelayError("bad-request", { why: `To try this for real it takes ${what}` });
  return given;
}

async function httpTrial(
  { inlet, record }: InletInstance,
  path: string,
  body: unknown,
  key: string | null,
  { url }: TrialDeps,
): Promise<Exchange> {
  const isText = typeof body === "string";
  const payload = isText ? body : JSON.stringify(body);
  const proof = key === null ? signed(inlet.secret, payload) : { authorization: `Bearer ${key}` };
  if (!proof) {
    const signs = record.inlet.kind === "hook" ? ", or a secret to sign with" : "";
    throw new RelayError("bad-request", { why: `To try this for real it takes one of the inlet's keys${signs}` });
  }
  const headers = { "content-type": isText ? "text/plain" : "application/json", prefer: "wait=10", ...proof };
  const controller = new AbortController();
  const timer = setTimeout(() => controller.abort(new Error("it took too long")), WITHIN_MS);
  try {
    const init = { method: "POST", headers, body: payload, redirect: "manual", signal: controller.signal } as const;
    const response = await fetch(`${loopback(url)}/in/${path}`, init);
    const got = `${response.status} ${(await response.text()).slice(0, LONGEST_SHOWN)}`;
    return { sent: `POST /in/${path}  ${payload.slice(0, LONGEST_SHOWN)}`, got };
  } finally {
    clearTimeout(timer);
  }
}

/** Who listens everywhere is called here. */
function loopback(url: string): string {
  return url.replace("//0.0.0.0:", "//127.0.0.1:").replace("//[::]:", "//[::1]:");
}

function signed(secret: string | null, body: string): Record<string, string> | null {
  if (secret === null) return null;
  const [id, timestamp] = [`try-${randomUUID()}`, Math.floor(Date.now() / 1000)];
  const signature = signatureOf(secret, id, timestamp, body);
  return { "webhook-id": id, "webhook-timestamp": String(timestamp), "webhook-signature": signature };
}

/** A message as this chat would post it: each part where the inlet looks for it. */
function chatBody({ text, sender, room }: Partial<Arrival>, settings: Readonly<Record<string, unknown>>): object {
  const body: Record<string, unknown> = {};
  const parts = [
    [settings.text ?? "/text", text],
    [settings.sender ?? "/sender", sender],
    [settings.room ?? "/room", room],
  ] as const;
  for (const [pointer, value] of parts) place(body, String(pointer).split("/").slice(1), value ?? "");
  return body;
}

function place(body: Record<string, unknown>, [first = "", ...rest]: readonly string[], value: string): void {
  const name = first.replaceAll("~1", "/").replaceAll("~0", "~");
  // The names come from a description that people write.
  const own = Object.hasOwn(body, name) ? body[name] : undefined;
  const inner = typeof own === "object" && own !== null ? (own as Record<string, unknown>) : {};
  if (rest.length > 0) place(inner, rest, value);
  Object.defineProperty(body, name, { value: rest.length > 0 ? inner : value, enumerable: true, configurable: true });
}

/** A call of its own: it begins, and then each key is pressed. */
async function keypadTrial(digits: string, press: (body: object) => Promise<Exchange>): Promise<Exchange[]> {
  const call = `try-${randomUUID()}`;
  const told = [await press({ call })];
  for (const key of digits) told.push(await press({ call, digits: key }));
  return told;
}

async function topicTrial(topic: string, { text, hex }: Partial<Arrival>, { publish }: TrialDeps): Promise<Exchange> {
  const payload = hex ? Buffer.from(hex, "hex") : Buffer.from(text ?? "");
  await publish(topic, payload);
  await pause(TOPIC_MS);
  return { sent: `${topic}  ${hex ?? text ?? ""}`, got: "The broker has it." };
}

/** Only where this inlet itself listens: a description may name any place. */
async function lineTrial({ own }: InletInstance, line: string, key: string): Promise<Exchange> {
  const address = own instanceof LineInlet ? own.address : null;
  if (address === null)
    throw new RelayError("bad-request", { why: own?.health.trouble ?? "This inlet does not listen just now" });
  const host = address.host === "0.0.0.0" ? "127.0.0.1" : address.host;
  const socket = connect({ host, port: address.port });
  socket.setTimeout(WITHIN_MS, () => socket.destroy(new Error("it took too long")));
  let heard = "";
  const ends = (end: string) =>
    new Promise<void>((resolve, reject) => {
      const look = () => (heard.endsWith(end) ? resolve() : undefined);
      socket
        .on("data", look)
        .once("error", reject)
        .once("close", () => resolve());
      look();
    });
  socket.on("data", (piece: Buffer) => {
    heard = (heard + piece.toString("utf8")).slice(-LONGEST_SHOWN);
  });
  try {
    await ends("Key: ");
    heard = "";
    socket.write(`${key}\r\n`);
    await ends("> ");
    heard = "";
    socket.write(`${line}\r\n`);
    await ends("> ");
    return { sent: line, got: heard.replace(/> $/, "").trim() };
  } catch (error) {
    return { sent: line, got: `Nothing: ${(error as Error).message}.` };
  } finally {
    socket.destroy();
  }
}

async function sheetTrial({ own }: InletInstance): Promise<Exchange> {
  if (!(own instanceof SheetInlet)) throw new RelayError("bad-request", { why: "A paused sheet is not looked at" });
  const sent = `GET ${own.address}`;
  return { sent, got: await own.lookNow() };
}
