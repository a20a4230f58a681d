/** `npm run cluster -- --test`: the reference set-up loses each of its parts in turn, under load, judged by an independent witness. */
import { mkdirSync, writeFileSync } from "node:fs";
import path from "node:path";
import { setTimeout as pause } from "node:timers/promises";
import { parseArgs } from "node:util";
import { createClient } from "@bold-relay/api";
import { ClusterStack, ensurePackages, namespaceProblem } from "@bold-relay/rig";
import { RelayBoard } from "@bold-relay/standins";
import { readAccount } from "../account.ts";
import { type Answered, runAsker } from "../askers.ts";
import { judge, type Zeros } from "../judge.ts";
import { Random } from "../random.ts";
import { untilSettled } from "../settled.ts";
import { asksOf, autoOff, boardPlansOf, profile, pulses, SITE, siteNames, siteOf } from "../soak-site.ts";
import { INLET, USER } from "../soak-stack.ts";
import { Witness } from "../witness.ts";
import { clusterReport, type LossResult, seconds } from "./cluster-report.ts";
import { PROBE, probeBoardOf, probeSiteOf, probeSites } from "./cluster-site.ts";
import { type Loss, losses, upgrade } from "./losses.ts";
import { Probers } from "./probers.ts";
import { ShardMap } from "./shard-map.ts";

const { values } = parseArgs({
  options: {
    test: { type: "boolean" },
    /** Where there can be no cluster, that is said and nothing is wrong. */
    "if-possible": { type: "boolean" },
    /** Only the losses whose name has this in it. */
    only: { type: "string", default: "" },
    /** Draws the same requests again. */
    seed: { type: "string", default: String(Date.now() % 1_000_000) },
    /** A built checkout of the version before: all instances begin with it, and are upgraded first. */
    "upgrade-from": { type: "string" },
    askers: { type: "string", default: "4" },
    shards: { type: "string", default: "6" },
    /** Where the report goes as Markdown, beside standard output. */
    report: { type: "string" },
  },
});
if (values["if-possible"]) {
  ensurePackages(["iproute2"], say);
  const problem = namespaceProblem();
  if (problem !== null) {
    say(`The cluster is not tested: ${problem}.`);
    process.exit(0);
  }
}
const random = new Random(Number(values.seed));
const password = Buffer.from(crypto.getRandomValues(new Uint8Array(12))).toString("hex");
const folder = path.join(process.cwd(), ".demo", "cluster-test");
mkdirSync(folder, { recursive: true });
const file = (name: string, content: object) => {
  const where = path.join(folder, name);
  writeFileSync(where, JSON.stringify(content));
  return where;
};
const older = values["upgrade-from"];
const shardCount = Number(values.shards);
const [sites, probes] = [siteNames(shardCount), probeSites(shardCount)];
const stack = new ClusterStack({
  say,
  brokerUsers: [{ name: USER, password, rights: ["readwrite #"] }],
  serviceEnv: { BOLD_RELAY_LOG_LEVEL: "warn" },
  ...(older === undefined ? {} : { olderProgram: path.resolve(older, "packages/service/bin/bold-relay-server.js") }),
  plan: {
    profiles: [file("profile.json", profile)],
    sites: [...sites.map(siteOf), ...probes.map(probeSiteOf)].map((one) => file(`${one.slug}.json`, one)),
    owner: "Ines",
    keys: [{ member: "Ines", name: "cluster test" }],
    inlets: [
      { slug: INLET, name: "Soak" },
      { slug: PROBE, name: "Probe" },
    ],
  },
});
const wanted = [...(older === undefined ? [] : [upgrade]), ...losses].filter(({ name }) => name.includes(values.only));
if (wanted.length === 0) throw new Error(`No loss has “${values.only}” in its name.`);
const results: LossResult[] = [];
/** What was found wrong so far. */
const known = new Set<string>();
const witness = new Witness();
const answered: Answered = { accepted: new Map(), timed: new Set(), refused: new Map(), again: {}, asked: 0 };
const access = { brokerUrl: stack.brokerUrl, username: USER, password, keepaliveS: 3 };
const asks = asksOf(sites);
const boards = [...boardPlansOf(sites), ...probes.map(probeBoardOf)].map(
  (plan) => new RelayBoard({ ...plan, ...access, onDeed: witness.note, quiet: true }),
);
const interrupted = new Promise<"stop">((resolve) => {
  for (const signal of ["SIGINT", "SIGTERM"] as const) process.on(signal, () => resolve("stop"));
});
let clean = false;
try {
  clean = (await Promise.race([run(), interrupted])) === "clean";
} finally {
  await witness.stop();
  await Promise.all(boards.map((board) => board.stop()));
  await stack.close();
  if (clean) stack.forget();
  else say(`The logs are kept in ${stack.folder}.`);
}
process.exit(clean ? 0 : 1);

async function run(): Promise<"clean" | "not clean"> {
  const { inlets, keys } = await stack.open();
  const [key = "", probeKey = ""] = inlets.map((one) => one.key);
  const memberKey = keys[0]?.key ?? "";
  await witness.listen(stack.brokerUrl, USER, password, sites);
  await Promise.all(boards.map((board) => board.start()));
  await stack.untilWhole();
  const shards = new ShardMap(createClient({ baseUrl: stack.url, key: memberKey }));
  const keysOf = { key, probeKey, memberKey };
  let isSpread = await spread(shards);
  for (const loss of wanted) {
    // The version before may have no shards.
    if (!isSpread && loss !== upgrade) isSpread = await spread(shards);
    if (isSpread) await shards.untilShared(stack.nodes.length);
    say(loss.name);
    const result = await undergo(loss, shards, keysOf);
    results.push(result);
    const { gaps, found } = result;
    say(
      `  without a switch for ${seconds(gaps.moved)} in shards that changed their leader, ${seconds(gaps.others)} in others; ${found.flatMap(([, all]) => all).length} wrong`,
    );
    for (const [name, all] of found) for (const one of all.slice(0, 5)) say(`  ${name}: ${one}`);
  }
  const report = clusterReport(results, answered);
  process.stdout.write(`\n${report}\n`);
  if (values.report) writeFileSync(values.report, report);
  return results.every(({ found }) => found.every(([, all]) => all.length === 0)) ? "clean" : "not clean";
}

/** Each shard has a site of the soak, and one with a lamp. @returns whether there are shards */
async function spread(shards: ShardMap): Promise<boolean> {
  const sitesOf = sites.map((site, index) => [site, probes[index] ?? PROBE]);
  return shardCount === 1 || (await shards.spread(shardCount, sitesOf));
}

/** What becomes of requests while it happens. */
async function undergo(
  loss: Loss,
  shards: ShardMap,
  { key, probeKey, memberKey }: { key: string; probeKey: string; memberKey: string },
): Promise<LossResult> {
  let isOver = false;
  const probers = new Probers(probes, { url: stack.url, inlet: PROBE, key: probeKey });
  probers.start();
  const asked = answered.accepted.size;
  const asking = Array.from({ length: Number(values.askers) }, () =>
    runAsker({ url: stack.url, inlet: INLET, key, random: random.fork(), answered, asks, isOver: () => isOver }),
  );
  await pause(4_000);
  const before = await shards.all();
  const brokenAt = performance.now();
  await loss.happen(stack, shards);
  await stack.untilWhole();
  await probers.untilSwitched(60_000);
  const gaps = probers.gapsSince(brokenAt, before, await shards.all());
  await pause(2_000);
  isOver = true;
  await Promise.all([...asking, probers.stop()]);
  const found = newOf(await judged(memberKey));
  return { name: loss.name, requests: answered.accepted.size - asked, gaps, found };
}

/** Everything so far, once nothing is open any more. */
async function judged(memberKey: string): Promise<Zeros> {
  const databaseUrl = await stack.databaseUrl();
  const states = () => boardStates();
  await untilSettled(databaseUrl, states);
  const account = await readAccount(databaseUrl);
  const { sites } = await createClient({ baseUrl: stack.url, key: memberKey }).board();
  const shown = new Map<string, unknown>(
    sites.flatMap(({ channels }) => channels).map((one) => [one.address, one.observed?.value ?? null]),
  );
  return judge({ account, answered, seen: witness, boards: states(), shown, unlawful: [], pulses, autoOff });
}

/** What was not found after an earlier loss. */
function newOf(zeros: Zeros): Zeros {
  return zeros.map(([name, all]) => {
    const fresh = all.filter((one) => !known.has(`${name} ${one}`));
    for (const one of fresh) known.add(`${name} ${one}`);
    return [name, fresh] as const;
  });
}

/** What every channel of the soak's site is, by the boards themselves. */
function boardStates(): Map<string, unknown> {
  return new Map(
    boards
      .filter(({ name }) => name.startsWith(SITE))
      .flatMap((board) =>
        Object.entries(board.state.contacts).map(([channel, is]) => [`${board.name}/${channel}`, is] as const),
      ),
  );
}

function say(line: string): void {
  process.stderr.write(`${new Date().toISOString().slice(11, 19)}  ${line}\n`);
}
