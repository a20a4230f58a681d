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
import { asksOf, autoOff, boardPlans, profile, pulses, SITE, site } from "../soak-site.ts";
import { INLET, USER } from "../soak-stack.ts";
import { Witness } from "../witness.ts";
import { clusterReport, type LossResult } from "./cluster-report.ts";
import { PROBE_SITE, probeBoard, probeSite } from "./cluster-site.ts";
import { losses, upgrade } from "./losses.ts";
import { Prober } from "./prober.ts";

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
const stack = new ClusterStack({
  say,
  brokerUsers: [{ name: USER, password, rights: ["readwrite #"] }],
  serviceEnv: { BOLD_RELAY_LOG_LEVEL: "warn" },
  ...(older === undefined ? {} : { olderProgram: path.resolve(older, "packages/service/dist/main.js") }),
  plan: {
    profiles: [file("profile.json", profile)],
    sites: [file("site.json", site), file("probe.json", probeSite)],
    owner: "Ines",
    keys: [{ member: "Ines", name: "cluster test" }],
    inlets: [
      { slug: INLET, name: "Soak" },
      { slug: PROBE_SITE, name: "Probe", site: PROBE_SITE },
    ],
  },
});
const wanted = [...(older === undefined ? [] : [upgrade]), ...losses].filter(({ name }) => name.includes(values.only));
if (wanted.length === 0) throw new Error(`No loss has “${values.only}” in its name.`);
const results: LossResult[] = [];
const witness = new Witness();
const answered: Answered = { accepted: new Map(), timed: new Set(), refused: new Map(), again: {}, asked: 0 };
const access = { brokerUrl: stack.brokerUrl, username: USER, password, keepaliveS: 3 };
const asks = asksOf([SITE]);
const boards = [...boardPlans, probeBoard].map(
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
  await witness.listen(stack.brokerUrl, USER, password);
  await Promise.all(boards.map((board) => board.start()));
  await stack.untilWhole();
  const known = new Set<string>();
  for (const loss of wanted) {
    say(loss.name);
    let isOver = false;
    const prober = new Prober({ url: stack.url, inlet: PROBE_SITE, key: probeKey });
    prober.start();
    const asked = answered.accepted.size;
    const asking = Array.from({ length: Number(values.askers) }, () =>
      runAsker({ url: stack.url, inlet: INLET, key, random: random.fork(), answered, asks, isOver: () => isOver }),
    );
    await pause(4_000);
    const brokenAt = performance.now();
    await loss.happen(stack);
    await stack.untilWhole();
    await prober.untilSwitched(60_000);
    const gapMs = prober.longestGapSince(brokenAt);
    await pause(2_000);
    isOver = true;
    await Promise.all([...asking, prober.stop()]);
    const found = newOf(await judged(memberKey), known);
    results.push({ name: loss.name, requests: answered.accepted.size - asked, gapMs, found });
    say(`  without a switch for ${(gapMs / 1000).toFixed(1)} s; ${found.flatMap(([, all]) => all).length} wrong`);
    for (const [name, all] of found) for (const one of all.slice(0, 5)) say(`  ${name}: ${one}`);
  }
  const report = clusterReport(results, answered);
  process.stdout.write(`\n${report}\n`);
  if (values.report) writeFileSync(values.report, report);
  return results.every(({ found }) => found.every(([, all]) => all.length === 0)) ? "clean" : "not clean";
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
function newOf(zeros: Zeros, known: Set<string>): Zeros {
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
      .filter(({ name }) => name.startsWith(`${SITE}/`))
      .flatMap((board) =>
        Object.entries(board.state.contacts).map(([channel, is]) => [`${board.name}/${channel}`, is] as const),
      ),
  );
}

function say(line: string): void {
  process.stderr.write(`${new Date().toISOString().slice(11, 19)}  ${line}\n`);
}
