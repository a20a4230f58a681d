/**
 * Askers and device users who want what is not theirs, beside the honest ones, through every fault. Nothing of it may be done:
 * whatever is answered as done, or heard at the broker, is one too many.
 */
import { setTimeout as pause } from "node:timers/promises";
import { connectAsync } from "mqtt";
import type { Random } from "./random.ts";
import { SITE } from "./soak-site.ts";

export const NEXT_DOOR = "next-door";
export const HOSTILE_USER = "hostile";
/** Stands in whatever a hostile device user writes: the witness knows it by that. */
export const MARK = "hostile";

export interface Hostilities {
  tried: number;
  /** What was done without the right, in words. */
  readonly done: string[];
}

export interface HostileOptions {
  readonly url: string;
  readonly brokerUrl: string;
  readonly brokerPassword: string;
  /** The service's own client id. */
  readonly clientId: string;
  /** Of an inlet of the neighbour's, of somebody who may only look, of an engineer of the neighbour's, of an owner for a day. */
  readonly keys: Readonly<Record<"inlet" | "reader" | "engineer" | "owner", string>>;
  readonly random: Random;
  readonly isOver: () => boolean;
  readonly hostilities: Hostilities;
}

interface Attempt {
  readonly about: string;
  readonly method?: "GET" | "POST" | "PUT" | "DELETE";
  readonly path: string;
  readonly key: string;
  readonly body?: object;
  readonly headers?: Readonly<Record<string, string>>;
}

const ASK = { target: `${SITE}/north/hall`, action: "on" };

function attempts({ keys: { inlet, reader, engineer, owner } }: HostileOptions): Attempt[] {
  const topic = `${SITE}/north/hall/do`;
  return [
    { about: "a key that nobody made", path: `/in/${SITE}`, key: `brk_${"x".repeat(43)}`, body: ASK },
    { about: "another inlet's key", path: `/in/${SITE}`, key: inlet, body: ASK },
    { about: "another site's channel", path: `/in/${NEXT_DOOR}`, key: inlet, body: ASK },
    { about: "an inlet's key at the API", method: "GET", path: "/api/v1/board", key: inlet },
    { about: "a reader who switches", path: "/api/v1/requests", key: reader, body: ASK },
    { about: "a reader who speaks", path: "/api/v1/phrases", key: reader, body: { text: "hall in north on" } },
    { about: "a reader who makes a key", path: "/api/v1/keys", key: reader, body: { name: "more", most: "owner" } },
    { about: "a neighbour's command", path: "/api/v1/requests", key: engineer, body: ASK },
    { about: "a neighbour's message by hand", path: "/api/v1/wire", key: engineer, body: { topic, payload: MARK } },
    { about: "a neighbour's lock-out", path: "/api/v1/lockouts", key: engineer, body: { target: `${SITE}/north` } },
    { about: "a neighbour who deletes an inlet", method: "DELETE", path: `/api/v1/inlets/${SITE}`, key: engineer },
    {
      about: "a neighbour who adds an owner",
      path: "/api/v1/members",
      key: engineer,
      body: { name: "Mole", role: "owner" },
    },
    {
      about: "a neighbour who takes an inlet over",
      method: "PUT",
      path: `/api/v1/inlets/${SITE}`,
      key: engineer,
      body: { slug: SITE, name: "Mine", kind: "web", site: NEXT_DOOR },
      headers: { "if-match": "*" },
    },
    { about: "a key that makes an owner", path: "/api/v1/members", key: owner, body: { name: "Mole", role: "owner" } },
    { about: "a key that makes a key", path: "/api/v1/keys", key: owner, body: { name: "mole", expiresInDays: null } },
    { about: "a key that restores access", path: "/api/v1/members/Ines/reset", key: owner, body: {} },
    {
      about: "a key that changes the rules",
      method: "PUT",
      path: "/api/v1/team/rules",
      key: owner,
      body: { secondFactorFor: [] },
    },
    { about: "a key that exports the log", method: "GET", path: "/api/v1/requests.csv", key: owner },
    {
      about: "a neighbour who claims a topic",
      method: "PUT",
      path: "/api/v1/inlets/ear",
      key: engineer,
      body: {
        slug: "ear",
        name: "Ear",
        kind: "topic",
        site: NEXT_DOOR,
        routes: [{ when: { topic }, do: { phrase: "help" } }],
      },
      headers: { "if-match": "*" },
    },
    {
      about: "one who says that it is an instance",
      path: `/in/${SITE}`,
      key: inlet,
      body: ASK,
      headers: { "bold-relay-via": "peer" },
    },
  ];
}

/** Tries one thing after the other until it is over. */
export async function runHostileAsker(options: HostileOptions): Promise<void> {
  const { url, random, isOver, hostilities } = options;
  const all = attempts(options);
  while (!isOver()) {
    const { about, method = "POST", path, key, body, headers = {} } = random.pick(all);
    hostilities.tried += 1;
    const status = await fetch(`${url}${path}`, {
      method,
      headers: { authorization: `Bearer ${key}`, "content-type": "application/json", ...headers },
      signal: AbortSignal.timeout(15_000),
      ...(body ? { body: JSON.stringify(body) } : {}),
    }).then(
      async (response) => {
        await response.arrayBuffer();
        return response.status;
      },
      () => 0,
    );
    if (status >= 200 && status < 300) hostilities.done.push(`${about}: answered ${status}`);
    await pause(random.between(50, 400));
  }
}

/** A device's user that writes for others, listens to others, and calls itself like the service. */
export async function runHostileDevice(options: HostileOptions): Promise<void> {
  const { brokerUrl, brokerPassword, clientId, random, isOver, hostilities } = options;
  const access = { username: HOSTILE_USER, password: brokerPassword, protocolVersion: 5, reconnectPeriod: 0 } as const;
  while (!isOver()) {
    const name = random.pick([HOSTILE_USER, clientId, `${clientId}-wire`]);
    hostilities.tried += 1;
    const client = await connectAsync(brokerUrl, { ...access, clientId: name, connectTimeout: 3_000 }, false).catch(
      () => null,
    );
    if (client) {
      client.on("error", () => {});
      if (name !== HOSTILE_USER) hostilities.done.push(`a device connected as ${name}`);
      client.on("message", (topic) => hostilities.done.push(`a device heard ${topic}`));
      await client.subscribeAsync([`${SITE}/#`, "#", "$CONTROL/#"], { qos: 1 }).catch(() => {});
      for (const topic of [
        `${SITE}/north/hall/do`,
        `${SITE}/north/hall/is`,
        `${clientId}/marker`,
        "$CONTROL/dynamic-security/v1",
      ]) {
        const payload = JSON.stringify({ to: "on", by: "hand", id: MARK });
        await client.publishAsync(topic, payload, { qos: 1 }).then(
          () => hostilities.done.push(`a device wrote ${topic}`),
          () => {},
        );
      }
      await client.endAsync(true).catch(() => {});
    }
    await pause(random.between(300, 1_500));
  }
}
