/** Everything that runs in the demo, started in order and stopped in the reverse order. */
import { createHash } from "node:crypto";
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import pg from "pg";
import { type BrokerUser, endLeftoverBroker, startBroker } from "../broker.ts";
import { type Child, type ChildOptions, endLeftover, logTail, startChild } from "../child.ts";
import { ensurePackages, findPrograms, type Programs } from "../needs.ts";
import { createOwnerClient } from "../owner-client.ts";
import { eventually } from "../port.ts";
import { createServiceDatabase, endLeftoverPostgres, reachable, serviceUrl, startPostgres } from "../postgres.ts";
import { setUp } from "../setup.ts";
import { buildConsole } from "./console-build.ts";
import { openInlets } from "./inlets.ts";
import { type MissingStandIn, missingStandIns } from "./missing-stand-ins.ts";
import { addPast } from "./past.ts";
import { type Kept, keep } from "./secrets.ts";
import { writeBrokerFiles, writeShellFile } from "./shell-files.ts";
import { standInPlan } from "./stand-in-plan.ts";
import { translationPlan } from "./translation.ts";
import { demoBoards, INLET, OWNER, PROFILE_FILES, SITE_FILES, userName } from "./world.ts";

const PACKAGES = fileURLToPath(new URL("../../../", import.meta.url));
/** What starts a package as a program. */
export const program = (name: string) => path.join(PACKAGES, name, "src/main.ts");

/** What is shown once: made at the first start, or when asked for anew. */
interface NewSecrets {
  readonly password: string;
  readonly inletKey: string;
}

export interface DemoStack {
  readonly url: string;
  readonly controlPort: number;
  readonly newSecrets: NewSecrets | null;
  /** Shell file that sets the command line's address, key and password file. */
  readonly cliFile: string;
  readonly cliEnv: { readonly BOLD_RELAY_URL: string; readonly BOLD_RELAY_KEY: string };
  /** Where the inlet for typed lines listens. */
  readonly linePort: number;
  /** Stand-ins that are not online, each with its reason; the demo runs without them. */
  readonly missing: readonly MissingStandIn[];
  /** Resolves with a sentence when a part ends that should not. */
  readonly broke: Promise<string>;
  stop(): Promise<void>;
}

export interface DemoStackOptions {
  /** Made on first use; holds everything. */
  readonly folder: string;
  readonly newSecrets: boolean;
  /** Begin with nothing: data of an earlier start are deleted. */
  readonly fresh: boolean;
  /** Leave nothing behind. */
  readonly temporary?: boolean;
  /** Where the service is; left out: the usual port, or another where that is taken. */
  readonly port?: number;
  readonly say: (line: string) => void;
}

export async function openDemoStack(options: DemoStackOptions): Promise<DemoStack> {
  const { folder, newSecrets, fresh, temporary = false, port, say } = options;
  const running: { stop(): Promise<void> }[] = [];
  mkdirSync(folder, { recursive: true });
  ensurePackages(["postgresql", "mosquitto", "openssl"], say);
  const serverFolder = folderForServers(folder, say);
  const stop = async () => {
    for (const part of running.splice(0).reverse()) await part.stop();
    if (temporary) rmSync(serverFolder, { recursive: true, force: true });
  };
  try {
    return await open();
  } catch (error) {
    await stop();
    throw error;
  }

  async function open(): Promise<DemoStack> {
    await endLeftovers(folder, serverFolder);
    if (fresh) for (const one of [folder, serverFolder]) rmSync(one, { recursive: true, force: true });
    mkdirSync(folder, { recursive: true });
    mkdirSync(serverFolder, { recursive: true, mode: 0o755 });
    const programs = findPrograms();
    const boards = demoBoards();
    const kept = await keep(
      path.join(folder, "kept.json"),
      boards.map((board) => `${board.site}/${board.device}`),
      port,
    );
    const consoleBuilt = buildConsole(say);
    // Awaited below; a failure before that must not end the process unheard.
    consoleBuilt.catch(() => {});
    const databaseFolder = path.join(serverFolder, "database");
    const first = !existsSync(path.join(databaseFolder, "data", "PG_VERSION"));

    say(first ? "Making a private PostgreSQL cluster" : "Starting PostgreSQL with its data");
    const postgres = await startPostgres({
      programs,
      folder: databaseFolder,
      port: kept.ports.database,
      password: kept.databasePassword,
      fsync: true,
    });
    running.push(postgres);

    say("Starting the private broker");
    const broker = await startBroker({
      programs,
      folder: path.join(serverFolder, "broker"),
      port: kept.ports.broker,
      devicePort: kept.ports.devices,
      users: brokerUsers(kept),
      adminPassword: kept.brokerAdminPassword,
    });
    running.push(broker);

    const { databaseUrl, made } = await openDatabase(programs, postgres.url("postgres"));
    const cliFile = path.join(folder, "cli.env");
    // Keys of a database that is gone open nothing in a new one.
    const shown = await setUpDemo(databaseUrl, cliFile, newSecrets || made, say);
    if (made) await addPast(databaseUrl);
    const url = `http://127.0.0.1:${kept.ports.service}`;
    const cliEnv = { BOLD_RELAY_URL: url, BOLD_RELAY_KEY: shown.cliKey };
    const owner = keepPassword(folder, shown.fresh?.password);
    const inletsFile = path.join(folder, "inlets.env");
    writeShellFile(
      cliFile,
      {
        ...cliEnv,
        ...owner.environment,
        DEMO_LINE_PORT: String(kept.ports.desk),
      },
      { programs: path.dirname(process.execPath), also: inletsFile },
    );
    const { devices } = broker;
    if (!devices) throw new Error("The broker has no port for devices.");
    writeBrokerFiles(folder, kept, devices);

    say("Starting the service and the stand-ins");
    const service = startNode(folder, "service", program("service"), ["start"], {
      BOLD_RELAY_DATABASE_URL: databaseUrl,
      BOLD_RELAY_BROKER_URL: broker.url,
      BOLD_RELAY_BROKER_USER: "service",
      BOLD_RELAY_BROKER_PASSWORD: kept.brokerPassword,
      BOLD_RELAY_BROKER_ADMIN_USER: "admin",
      BOLD_RELAY_BROKER_ADMIN_PASSWORD: kept.brokerAdminPassword,
      BOLD_RELAY_PORT: String(kept.ports.service),
      BOLD_RELAY_SECRETS_KEY: kept.secretsKey,
      BOLD_RELAY_MAY_CALL: `127.0.0.1:${kept.ports.services}`,
      BOLD_RELAY_MAY_LISTEN: `127.0.0.1:${kept.ports.desk}`,
    });
    running.push(service);
    // Beside it, and not after it: it does not matter what is there first.
    const planFile = path.join(folder, "standins.json");
    writeFileSync(planFile, JSON.stringify(standInPlan(kept, devices)), { mode: 0o600 });
    const standIns = startNode(folder, "standins", program("standins"), [planFile], {});
    running.push(standIns);
    writeFileSync(path.join(folder, "standins.port"), String(kept.ports.control));
    const translation = path.join(folder, "translators.json");
    writeFileSync(translation, JSON.stringify(translationPlan(kept, boards, devices)), {
      mode: 0o600,
    });
    const translators = startNode(folder, "translators", program("translators"), [translation], {});
    running.push(translators);
    await requireReady(folder, service, async () => {
      const response = await fetch(`${url}/health/ready`).catch(() => null);
      return response?.ok === true;
    });
    say(`Waiting for ${boards.length} stand-ins of devices`);
    const client = createOwnerClient({ url, key: shown.cliKey, name: OWNER, password: owner.password });
    const missing = await missingStandIns(client, boards, kept.ports.control, standIns);
    await openInlets(client, kept, inletsFile, say);

    await consoleBuilt;
    const parts = [postgres.child, broker.child, service, standIns, translators];
    return {
      url,
      controlPort: kept.ports.control,
      newSecrets: shown.fresh,
      cliFile,
      cliEnv,
      linePort: kept.ports.desk,
      missing,
      broke: Promise.race(parts.map(async (part) => `${part.name} ended by itself with ${await part.ended}`)),
      stop,
    };
  }
}

/** The servers' users cannot enter somebody's private folder: then their data goes where they can. */
function folderForServers(folder: string, say: (line: string) => void): string {
  if (reachable(folder)) return folder;
  const name = `bold-relay-demo-${createHash("sha256").update(folder).digest("hex").slice(0, 12)}`;
  // Only root's servers run as another user, and only root can make a folder here.
  const elsewhere = path.join("/var/lib", name);
  say(`The servers' users cannot enter ${folder}, so their data is kept in ${elsewhere}`);
  return elsewhere;
}

/** Loads the sites, and makes the owner, the inlet and the keys where they are missing or asked for anew. */
async function setUpDemo(databaseUrl: string, cliFile: string, anew: boolean, say: (line: string) => void) {
  const cliKey = keyIn(cliFile);
  say(cliKey ? "Finding the demo's sites and journal" : "Loading the sites of Copperleaf Controls");
  // What was changed of the sites in the demo stays.
  const plan = {
    profiles: PROFILE_FILES,
    sites: SITE_FILES,
    owner: OWNER,
    keys: [{ member: OWNER, name: "demo terminal" }],
    inlets: [INLET],
  };
  const { owner, keys, inlets } = await setUp(databaseUrl, plan, anew || cliKey === null);
  const password = owner?.password;
  const inletKey = inlets[0]?.key;
  const fresh = password === undefined || inletKey === undefined ? null : { password, inletKey };
  return { cliKey: keys[0]?.key ?? cliKey ?? "", fresh };
}

/** The owner's password, for the command line. Of a demo that is older than this file nobody knows it: it is asked for then. */
function keepPassword(folder: string, made: string | undefined) {
  const file = path.join(folder, "owner.password");
  if (made !== undefined) writeFileSync(file, `${made}\n`, { mode: 0o600 });
  if (!existsSync(file)) return { password: "", environment: {} };
  return { password: readFileSync(file, "utf8").trim(), environment: { BOLD_RELAY_PASSWORD_FILE: file } };
}

function keyIn(cliFile: string): string | null {
  if (!existsSync(cliFile)) return null;
  return /BOLD_RELAY_KEY='?([^'\s]+)/.exec(readFileSync(cliFile, "utf8"))?.[1] ?? null;
}

/** The service may use every topic of its sites; each board only its own. */
export function brokerUsers(kept: Kept): BrokerUser[] {
  const devices = Object.entries(kept.devicePasswords).map(([device, password]) => ({
    name: userName(device),
    password,
    // Its own topics only, in the forms that the demo's profiles have.
    topics: [
      ...["do", "ask", "set"].map((told) => `read ${device}/+/${told}`),
      ...["+/done", "+/is", "+/state", "+"].map((said) => `write ${device}/${said}`),
    ],
  }));
  const buttons = ["write alder-row-buttons/#", "read answers/#"];
  return [
    { name: "service", password: kept.brokerPassword, topics: "service" },
    { name: "buttons", password: kept.buttonsPassword, topics: buttons },
    ...devices,
  ];
}

/** The service's own database, as its own role; made on first use. */
async function openDatabase(programs: Programs, server: string): Promise<{ databaseUrl: string; made: boolean }> {
  const db = new pg.Client(server);
  await db.connect();
  const { rowCount } = await db.query("select from pg_database where datname = $1", [DATABASE]);
  await db.end();
  if (rowCount === 1) return { databaseUrl: serviceUrl(server, DATABASE), made: false };
  return { databaseUrl: await createServiceDatabase(programs, server, DATABASE), made: true };
}

const DATABASE = "bold_relay";

function partOptions(folder: string, name: string): Pick<ChildOptions, "name" | "logFile" | "pidFile"> {
  return { name: `the ${name}`, logFile: path.join(folder, `${name}.log`), pidFile: path.join(folder, `${name}.pid`) };
}

function startNode(folder: string, name: string, file: string, args: string[], env: Record<string, string>): Child {
  return startChild({ ...partOptions(folder, name), command: process.execPath, args: [file, ...args], env });
}

async function endLeftovers(folder: string, serverFolder: string): Promise<void> {
  for (const name of ["service", "standins", "translators"]) {
    await endLeftover(partOptions(folder, name).pidFile, program(name), "SIGTERM");
  }
  await endLeftoverBroker(path.join(serverFolder, "broker"));
  await endLeftoverPostgres(path.join(serverFolder, "database"));
  rmSync(path.join(folder, "standins.port"), { force: true });
}

async function requireReady(folder: string, child: Child, isReady: () => Promise<boolean>): Promise<void> {
  if (await eventually(isReady, 30_000, child.hasEnded)) return;
  const name = child.name.replace("the ", "");
  const { logFile } = partOptions(folder, name);
  throw new Error(`${child.name} did not get ready. The end of ${logFile}:\n${logTail(logFile)}`);
}
