/** The site that is measured on: as many relays as there are askers. */
import { chmodSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { fileURLToPath } from "node:url";
import {
  eventually,
  findPrograms,
  freePort,
  SERVER_PROGRAM,
  setUp,
  startBroker,
  startChild,
  startPostgres,
} from "@bold-relay/rig";

const PACKAGES = fileURLToPath(new URL("../../packages/", import.meta.url));
const WITHOUT_JOURNAL = fileURLToPath(new URL("./without-journal.ts", import.meta.url));
export const INLET = "bench";

/** The password of everything on loopback. */
export const SECRET = "bench";

/** What is to be stopped at the end, in the order of its start. */
export type Stops = (() => Promise<void> | void)[];

/** Does some work, and stops in the end what it has started, whatever becomes of it: also when it is told to end. */
export async function stopping(stops: Stops, work: () => Promise<void>): Promise<void> {
  let ending: Promise<void> | null = null;
  const stopAll = () => {
    ending ??= (async () => {
      for (const stop of stops.reverse()) await stop();
    })();
    return ending;
  };
  for (const signal of ["SIGINT", "SIGTERM"] as const)
    process.once(signal, () => void stopAll().finally(() => process.exit(STOPPED)));
  try {
    await work();
  } finally {
    await stopAll();
  }
}

/** As a shell has it of what Ctrl-C ended. */
const STOPPED = 130;

interface ServerOptions {
  /** false only where millions of rows are made to be read. */
  readonly fsync?: boolean;
  /** A folder that stays; left out: one that is removed at the end. */
  readonly kept?: string | undefined;
  /** Of PostgreSQL, beside its own. */
  readonly settings?: Readonly<Record<string, string>>;
}

/** A folder of one's own with a PostgreSQL and a broker in it. */
export async function openServers(
  name: string,
  stops: Stops,
  { fsync = true, kept, settings = {} }: ServerOptions = {},
) {
  const folder = kept ?? mkdtempSync(path.join(tmpdir(), `bold-relay-${name}-`));
  mkdirSync(folder, { recursive: true });
  chmodSync(folder, 0o755);
  if (kept === undefined) stops.push(() => rmSync(folder, { recursive: true, force: true }));
  const programs = findPrograms();
  const place = { folder: path.join(folder, "database"), port: await freePort() };
  const database = { programs, ...place, password: SECRET, fsync, settings };
  const postgres = await startPostgres(database);
  stops.push(() => postgres.stop());
  const users = [{ name: "bench", password: SECRET, topics: "service" as const }];
  const broker = await startBroker({ programs, folder: path.join(folder, "broker"), port: await freePort(), users });
  stops.push(() => broker.stop());
  return { folder, databaseUrl: postgres.url("postgres"), brokerUrl: broker.url, postgres, broker };
}

/** A board that answers and reports, or a taker: one that only answers. */
export type Board = "board" | "taker";

/** One channel for every asker, so that none replaces another's command. */
export function channelAddress(board: Board, asker: number, site = "bench"): string {
  return `${site}/${board}-${Math.floor(asker / 16)}/relay-${asker % 16}`;
}

/**
 * Loads the site and makes the inlet; returns the inlet's key.
 *
 * @param channels of each kind of board
 */
export async function setUpSite(databaseUrl: string, folder: string, channels: number): Promise<string> {
  const profiles = ["reporting-board", "answering-board"].map((name) =>
    path.join(PACKAGES, `rig/demo-data/profile-${name}.json`),
  );
  await setUp(databaseUrl, { profiles });
  await addSite(databaseUrl, folder, "bench", channels);
  const { inlets } = await setUp(databaseUrl, { inlets: [{ slug: INLET, name: "Bench" }] });
  return inlets[0]?.key ?? "";
}

/** Premises with as many channels that report as channels that only answer. */
export async function addSite(databaseUrl: string, folder: string, slug: string, channels: number): Promise<void> {
  const site = {
    slug,
    name: slug,
    rooms: [
      {
        slug: "hall",
        name: "Hall",
        devices: Array.from({ length: Math.ceil(channels / 16) }, (_, index) => [
          device("board", "reporting-board", index),
          device("taker", "answering-board", index),
        ]).flat(),
      },
    ],
  };
  const siteFile = path.join(folder, "site.json");
  writeFileSync(siteFile, JSON.stringify(site));
  await setUp(databaseUrl, { sites: [siteFile] });
}

/** The flags with which packages start the service: see `packaging/stage.mjs`. */
const SHIPPED_FLAGS = ["--max-semi-space-size=16"] as const;

/** What is started instead of the service as it is built here. */
export interface Variant {
  /** Flags of Node.js: `--max-semi-space-size=32`. Default: those of the packages. */
  readonly flags?: readonly string[];
  /** The Node.js that runs it. */
  readonly node?: string;
  /** false: it keeps requests nowhere. */
  readonly journal?: boolean;
}

/** Starts the service on these servers, and waits until it is ready. */
export async function startMeasured(
  folder: string,
  databaseUrl: string,
  brokerUrl: string,
  password: string,
  { flags = SHIPPED_FLAGS, node = process.execPath, journal = true }: Variant = {},
) {
  const url = `http://127.0.0.1:${await freePort()}`;
  const service = startChild({
    name: "the service",
    command: node,
    args: [...flags, ...(journal ? [SERVER_PROGRAM, "start"] : [WITHOUT_JOURNAL])],
    logFile: path.join(folder, "service.log"),
    pidFile: path.join(folder, "service.pid"),
    env: {
      BOLD_RELAY_DATABASE_URL: databaseUrl,
      BOLD_RELAY_BROKER_URL: brokerUrl,
      BOLD_RELAY_BROKER_USER: "bench",
      BOLD_RELAY_BROKER_PASSWORD: password,
      BOLD_RELAY_PORT: new URL(url).port,
      BOLD_RELAY_LOG_LEVEL: "warn",
    },
  });
  const ready = async () => (await fetch(`${url}/health/ready`).catch(() => null))?.ok === true;
  if (await eventually(ready, 60_000, service.hasEnded)) return { url, service };
  await service.stop();
  throw new Error(
    `The service did not get ready. ${readFileSync(path.join(folder, "service.log"), "utf8").slice(-2_000)}`,
  );
}

/** Makes an owner; returns a key of theirs. */
export async function setUpMember(databaseUrl: string): Promise<string> {
  const { keys } = await setUp(databaseUrl, { owner: "Ines", keys: [{ member: "Ines", name: "bench" }] });
  return keys[0]?.key ?? "";
}

function device(board: Board, profile: string, index: number) {
  const channels = Array.from({ length: 16 }, (_, place) => ({
    slug: `relay-${place}`,
    name: `Relay ${index * 16 + place} of a ${board}`,
    kind: "relay",
  }));
  return { slug: `${board}-${index}`, name: `${board} ${index}`, profile, channels };
}
