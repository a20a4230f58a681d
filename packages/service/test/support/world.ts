/** A world of its own for every test file: database, site, keys, the service and stand-in boards, on the run's servers. */
import { randomBytes } from "node:crypto";
import { mkdtempSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { type AskBody, type Client, createClient, type RequestView } from "@bold-relay/api";
import type { DeliveryPolicy, Profile, SiteDescription } from "@bold-relay/core";
import { createServiceDatabase, findPrograms } from "@bold-relay/rig";
import { RelayBoard, type RelayBoardOptions } from "@bold-relay/standins";
import { connectAsync, type MqttClient } from "mqtt";
import type pg from "pg";
import { inject } from "vitest";
import { SESSION_COOKIE } from "../../src/auth/identify.ts";
import { newSessionToken } from "../../src/auth/token.ts";
import {
  type Clock,
  type Config,
  createLog,
  createPool,
  hashPassword,
  migrate,
  newKey,
  type RunningService,
  readConfig,
  saveInlet,
  saveKey,
  saveMember,
  saveProfile,
  saveSite,
  sha256,
  startService,
  steadyClock,
} from "../../src/index.ts";
import { findMember, openSession } from "../../src/store/identities.ts";
import { brokerUrl } from "./servers.ts";

export const OWNER = { name: "Ines", password: "correct horse battery" };
export const INLET = "hall-tablet";

/** Longer than any busy machine needs: tests that wait for a time to run out make it short for themselves. */
const TIMINGS: Partial<DeliveryPolicy> = { ackWithinMs: 8_000, attempts: 3, ttlMs: 60_000, settleMs: 8_000 };

export interface World {
  readonly site: string;
  readonly config: Config;
  readonly client: Client;
  readonly key: string;
  /** A file that holds the owner's password, for the command line. */
  readonly passwordFile: string;
  readonly inletKey: string;
  readonly pool: pg.Pool;
  /** What the next start of the service uses as its clock. */
  clock: Clock;
  service: RunningService;
  /** The running board of the device `wren`, `finch` or `dunlin`; the options count when it is first asked for. */
  board(device: string, options?: Partial<RelayBoardOptions>): Promise<RelayBoard>;
  /** A plain connection to the broker, to listen in or to interfere. */
  listener(): Promise<MqttClient>;
  address(channel: string): string;
  /** Asks and waits for the outcome. */
  ask(channel: string, action: string, waitS?: number, more?: Partial<AskBody>): Promise<RequestView>;
  /** Stops the service and starts it anew on the same data. */
  restart(): Promise<void>;
  stop(): Promise<void>;
}

export interface WorldOptions {
  readonly delivery?: Partial<DeliveryPolicy>;
  readonly consoleDir?: string;
  /** Left out where the test starts the service as a process of its own. */
  readonly start?: boolean;
  /** Another PostgreSQL than that of the whole run: its connection URI. */
  readonly server?: string;
  /** Another site than the usual one, and profiles that it needs beside `reporting` and `answering`. */
  readonly describe?: (slug: string) => SiteDescription;
  readonly profiles?: readonly Profile[];
  readonly clock?: Clock;
  /** How long its lease holds, ms; it is renewed three times over that. */
  readonly leaseMs?: number;
  /** More of the service's environment. */
  readonly environment?: Readonly<Record<string, string>>;
}

export async function createWorld(options: WorldOptions = {}): Promise<World> {
  const { delivery = {}, consoleDir, start = true, describe = describeSite } = options;
  const site = `site-${randomBytes(4).toString("hex")}`;
  const server = options.server ?? inject("databaseUrl");
  const databaseUrl = await createServiceDatabase(findPrograms(), server, site.replace("-", "_"));
  const pool = createPool(databaseUrl, () => {});
  await migrate(pool);
  for (const profile of [...profiles(delivery), ...(options.profiles ?? [])])
    await saveProfile(pool, profile, "the test");
  await saveSite(pool, describe(site), "the test");
  const { key, inletKey } = await makeKeys(pool, site);
  const config = readConfig({
    BOLD_RELAY_DATABASE_URL: databaseUrl,
    BOLD_RELAY_BROKER_URL: brokerUrl(),
    BOLD_RELAY_BROKER_USER: "tester",
    BOLD_RELAY_BROKER_PASSWORD: inject("brokerPassword"),
    BOLD_RELAY_BROKER_CLIENT_ID: site,
    BOLD_RELAY_MAY_LISTEN: "127.0.0.1:1024-65535",
    ...(options.leaseMs === undefined ? {} : { BOLD_RELAY_LEASE_MS: String(options.leaseMs) }),
    ...options.environment,
    BOLD_RELAY_PORT: "0",
    BOLD_RELAY_LOG_LEVEL: process.env.TEST_LOG ?? "silent",
    ...(consoleDir === undefined ? {} : { BOLD_RELAY_CONSOLE_DIR: consoleDir }),
  });
  const log = createLog(config.logLevel);
  const boards = new Map<string, RelayBoard>();
  const listeners: MqttClient[] = [];
  const launch = async () => {
    const service = await startService(config, log, world.clock);
    await service.linked;
    return service;
  };
  const nothing: RunningService = {
    url: "http://127.0.0.1:1",
    linked: Promise.resolve(),
    leads: false,
    stop: async () => {},
  };
  const started = options.clock ?? steadyClock;
  const world: World = {
    site,
    config,
    key,
    get passwordFile() {
      const file = path.join(mkdtempSync(path.join(tmpdir(), "bold-relay-password-")), "owner");
      writeFileSync(file, `${OWNER.password}\n`, { mode: 0o600 });
      return file;
    },
    inletKey,
    pool,
    clock: started,
    service: nothing,
    get client() {
      const baseUrl = world.service.url;
      return createClient({ baseUrl, key, signInAgain: () => signedInAs(pool, OWNER.name, baseUrl) });
    },
    address: (channel: string) => `${site}/${channel}`,
    async board(device: string, options: Partial<RelayBoardOptions> = {}) {
      const known = boards.get(device);
      if (known) return known;
      const channels = device === "dunlin" ? ["porch"] : ["porch", "hall", "path"];
      const board = new RelayBoard({ ...brokerAccess(), site, device, channels, ...options });
      boards.set(device, board);
      await board.start();
      return board;
    },
    async listener() {
      const { brokerUrl, ...access } = brokerAccess();
      const client = await connectAsync(brokerUrl, { ...access, protocolVersion: 5 });
      listeners.push(client);
      return client;
    },
    ask: (channel: string, action: string, waitS = 20, more: Partial<AskBody> = {}) =>
      world.client.ask({ target: world.address(channel), action, ...more }, { waitS }),
    async restart() {
      await world.service.stop();
      world.service = await launch();
    },
    async stop() {
      await Promise.all([
        ...[...boards.values()].map((board) => board.stop()),
        ...listeners.map((client) => client.endAsync()),
      ]);
      await world.service.stop();
      await pool.end();
    },
  };
  if (start) world.service = await launch();
  return world;
}

/** Headers of a session that somebody has just opened, as a browser on our pages sends them. */
export async function signedInAs(pool: pg.Pool, name: string, baseUrl: string): Promise<Record<string, string>> {
  const member = await findMember(pool, name);
  if (!member) throw new Error(`There is no member called ${name}.`);
  const token = newSessionToken();
  const session = {
    memberId: member.id,
    livesMs: 600_000,
    address: null,
    agent: null,
    proof: "password",
    secondFactor: false,
  };
  await openSession(pool, { tokenSha256: sha256(token), ...session });
  return { cookie: `${SESSION_COOKIE}=${token}`, origin: baseUrl };
}

function brokerAccess() {
  return { brokerUrl: brokerUrl(), username: "tester", password: inject("brokerPassword") };
}

async function makeKeys(pool: pg.Pool, site: string): Promise<{ key: string; inletKey: string }> {
  const [key, inletKey] = [newKey(), newKey()];
  const memberId = await saveMember(pool, OWNER.name, await hashPassword(OWNER.password), "owner");
  await saveKey(pool, { name: "test", tokenSha256: sha256(key), memberId });
  const inletId = await saveInlet(pool, { slug: INLET, name: "Hall tablet", site });
  await saveKey(pool, { name: "test", tokenSha256: sha256(inletKey), inletId });
  return { key, inletKey };
}

function profiles(delivery: Partial<DeliveryPolicy>): Profile[] {
  const topics = {
    do: "{site}/{device}/{channel}/do",
    done: "{site}/{device}/{channel}/done",
    is: "{site}/{device}/{channel}/is",
    here: "{site}/{device}/here",
  };
  return [
    {
      slug: "reporting",
      name: "Reports",
      codec: "json",
      topics,
      delivery: { ...TIMINGS, targetStage: "confirmed", ...delivery },
    },
    {
      slug: "answering",
      name: "Only answers",
      codec: "json",
      topics: { ...topics, is: null },
      delivery: { ...TIMINGS, targetStage: "acknowledged", ...delivery },
    },
  ];
}

function describeSite(slug: string): SiteDescription {
  const channels = [
    { slug: "porch", name: "Porch lantern", kind: "light" },
    { slug: "hall", name: "Hall light", kind: "light" },
    { slug: "path", name: "Path lights", kind: "relay" },
  ] as const;
  return {
    slug,
    name: "Alder Row",
    rooms: [
      {
        slug: "wren",
        name: "Wren",
        devices: [{ slug: "wren", name: "board in the cupboard", profile: "reporting", channels }],
      },
      {
        slug: "finch",
        name: "Finch",
        devices: [{ slug: "finch", name: "board under the stairs", profile: "reporting", channels }],
      },
      {
        slug: "dunlin",
        name: "Dunlin",
        devices: [{ slug: "dunlin", name: "old board", profile: "answering", channels: channels.slice(0, 1) }],
      },
    ],
  };
}
