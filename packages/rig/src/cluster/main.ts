/** `npm run cluster`: the reference set-up with the demo's sites and stand-ins, until Ctrl-C. */
import { mkdirSync, writeFileSync } from "node:fs";
import path from "node:path";
import { type Client, createClient } from "@bold-relay/api";
import { startChild } from "../child.ts";
import { brokerUsers, program } from "../demo/demo-stack.ts";
import { progress } from "../demo/screen.ts";
import { keep } from "../demo/secrets.ts";
import { writeShellFile } from "../demo/shell-files.ts";
import { standInPlan } from "../demo/stand-in-plan.ts";
import { translationPlan } from "../demo/translation.ts";
import { demoBoards, INLET, OWNER, PROFILE_FILES, SITE_FILES } from "../demo/world.ts";
import { eventually } from "../port.ts";
import { ClusterStack } from "./cluster-stack.ts";
import { NODES } from "./network.ts";

/** Two for each instance: when one is lost, the others can share what it had. */
const SHARDS = 2 * NODES.length;

async function main(): Promise<number> {
  const interrupted = new Promise<number>((resolve) => {
    process.on("SIGINT", () => resolve(130));
    process.on("SIGTERM", () => resolve(143));
  });
  const say = progress();
  const boards = demoBoards();
  const folder = path.join(process.cwd(), ".demo", "cluster");
  mkdirSync(folder, { recursive: true });
  const kept = await keep(
    path.join(folder, "kept.json"),
    boards.map(({ site, device }) => `${site}/${device}`),
  );
  const plan = {
    ...{ profiles: PROFILE_FILES, sites: SITE_FILES, owner: OWNER, inlets: [INLET] },
    keys: [{ member: OWNER, name: "cluster terminal" }],
  };
  const users = brokerUsers(kept)
    .filter(({ name }) => name !== "service")
    .map(({ topics, ...user }) => ({ ...user, rights: topics }));
  const stack = new ClusterStack({ say, brokerUsers: users, plan });
  const parts: { stop(): Promise<void> }[] = [];
  try {
    const made = await Promise.race([stack.open(), interrupted]);
    if (typeof made === "number") return made;
    const { owner, keys } = made;
    say("Starting the stand-ins of the demo's devices");
    const broker = { url: stack.brokerUrl };
    const startNode = (name: string, content: object) => {
      const file = path.join(folder, `${name}.json`);
      writeFileSync(file, JSON.stringify(content), { mode: 0o600 });
      const logFile = path.join(folder, `${name}.log`);
      const pidFile = path.join(folder, `${name}.pid`);
      const command = process.execPath;
      parts.push(startChild({ name, command, args: [program(name), file], logFile, pidFile }));
    };
    startNode("standins", standInPlan(kept, broker));
    startNode("translators", translationPlan(kept, boards, broker));
    const key = keys[0]?.key ?? "";
    const client = createClient({ baseUrl: stack.url, key });
    const isThere = async () => {
      const { sites } = await client.board();
      return sites.every((site) => site.channels.every(({ device }) => device.presence === "online"));
    };
    if (!(await eventually(isThere, 60_000))) throw new Error(`Not every stand-in is online. Their logs: ${folder}.`);
    say("Sharing the sites among the instances");
    await shareSites(client);
    const cliFile = path.join(folder, "cli.env");
    writeShellFile(cliFile, { BOLD_RELAY_URL: stack.url, BOLD_RELAY_KEY: key });
    say("Ready");
    process.stdout.write(await welcome(stack, client, owner?.password ?? "", cliFile));
    const code = await interrupted;
    process.stdout.write("\nStopping everything.\n");
    return code;
  } finally {
    for (const part of parts.reverse()) await part.stop();
    await stack.close();
    stack.forget();
  }
}

/** Two shards for each instance, and the sites spread over them. */
async function shareSites(client: Client): Promise<void> {
  await client.changeShardCount(SHARDS);
  const isShared = async () => {
    const leaders = (await client.cluster()).shards.map(({ leader }) => leader);
    return NODES.every(({ name }) => leaders.filter((leader) => leader === name).length === SHARDS / NODES.length);
  };
  if (!(await eventually(isShared, 60_000))) throw new Error("The instances do not share the shards.");
  const { sites } = await client.board();
  for (const [index, { slug }] of sites.entries()) await client.moveSite(slug, (index * 2) % SHARDS);
}

async function welcome(stack: ClusterStack, client: Client, password: string, cliFile: string): Promise<string> {
  const [{ shards, leader }, primary] = await Promise.all([client.cluster(), stack.primary()]);
  const led = shards.filter(({ sites }) => sites.length > 0);
  return [
    "",
    `  Console   ${stack.url}`,
    `  Sign in   ${OWNER}  /  ${password}`,
    "",
    `  ${stack.nodes.map(({ name, address }) => `${name} ${address}`).join("    ")}`,
    ...led.map((shard) => `  ${shard.leader} leads ${shard.sites.join(", ")}`),
    `  primary database: ${primary ?? "unknown"}    shared address: ${stack.addressHolder}`,
    "",
    "  In another terminal, in this folder:",
    `    . ${path.relative(process.cwd(), cliFile)}`,
    "    npx bold-relay cluster",
    '    npx bold-relay send "porch lantern, wren" on',
    "",
    `  Lose a machine:    ip link set rl-${leader ?? "north"} down     and back:  ip link set rl-${leader ?? "north"} up`,
    "  Stop everything:   Ctrl-C",
    "",
    "",
  ].join("\n");
}

main().then(
  (code) => process.exit(code),
  (error: unknown) => {
    process.stderr.write(`\nThe cluster stopped: ${error instanceof Error ? error.message : String(error)}\n`);
    process.exit(1);
  },
);
