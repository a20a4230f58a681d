/** `npm run soak -- --minutes N`: random faults under load, judged by an independent witness. */
import { writeFileSync } from "node:fs";
import { parseArgs } from "node:util";
import { createClient } from "@bold-relay/api";
import { createOwnerClient, eventually } from "@bold-relay/rig";
import { RelayBoard } from "@bold-relay/standins";
import { readAccount } from "./account.ts";
import { type Answered, runAsker } from "./askers.ts";
import { breakBoard, breakServers, moveAbout } from "./faults.ts";
import { type Hostilities, NEXT_DOOR, runHostileAsker, runHostileDevice } from "./hostile.ts";
import { judge } from "./judge.ts";
import { Random } from "./random.ts";
import { reportOf } from "./report.ts";
import { untilSettled } from "./settled.ts";
import { asksOf, autoOff, boardPlansOf, pulses, siteNames } from "./soak-site.ts";
import { INLET, SoakStack, USER } from "./soak-stack.ts";
import { Witness } from "./witness.ts";

const { values } = parseArgs({
  options: {
    minutes: { type: "string", default: "2" },
    /** Draws the same faults and asks again. */
    seed: { type: "string", default: String(Date.now() % 1_000_000) },
    askers: { type: "string", default: "8" },
    /** Instances of the service, behind one balancer. */
    instances: { type: "string", default: "2" },
    /** Shards that the instances share; each has a site of its own. */
    shards: { type: "string", default: "1" },
    /** Where the report goes as Markdown, beside standard output. */
    report: { type: "string" },
  },
});
const minutes = Number(values.minutes);
const seed = Number(values.seed);
const askers = Number(values.askers);
const instances = Number(values.instances);

const shards = Number(values.shards);

const sites = siteNames(shards);
const stack = new SoakStack(instances, sites);
const witness = new Witness();
const random = new Random(seed);
const answered: Answered = { accepted: new Map(), timed: new Set(), refused: new Map(), again: {}, asked: 0 };
const faults: Record<string, number> = {};

say(
  `Seed ${seed}, ${minutes} min, ${askers} askers, ${instances} instances, ${shards} shards; logs in ${stack.folder}`,
);
await stack.open();
await witness.listen(stack.brokerUrl, USER, stack.password, sites);
const access = { brokerUrl: stack.brokerUrl, username: USER, password: stack.password };
const boards = boardPlansOf(sites).map(
  (plan) => new RelayBoard({ ...plan, ...access, onDeed: witness.note, quiet: true }),
);
await Promise.all(boards.map((board) => board.start()));
await stack.untilReady();

const { url, memberKey: key, ownerPassword: password } = stack;
const owner = createOwnerClient({ url, key, name: "Ines", password });
if (shards > 1) await spread();
const keys = {
  inlet: stack.neighbourKey,
  reader: (await owner.addKey({ name: "reader", most: "reader" })).key,
  engineer: (await owner.addKey({ name: "neighbour", most: "engineer", sites: [NEXT_DOOR] })).key,
  owner: (await owner.addKey({ name: "day", expiresInDays: 1 })).key,
};
const asks = asksOf(sites);
const hostilities: Hostilities = { tried: 0, done: [] };

const end = performance.now() + minutes * 60_000;
const isOver = () => performance.now() >= end;
const hostile = {
  url: stack.url,
  brokerUrl: stack.brokerUrl,
  brokerPassword: stack.password,
  clientId: "bold-relay-shard-0",
  keys,
  isOver,
  hostilities,
};
const progress = setInterval(() => {
  const left = Math.max(0, Math.round((end - performance.now()) / 1000));
  say(
    `${left} s left, ${answered.accepted.size} accepted, ${Object.values(faults).reduce((sum, one) => sum + one, 0)} faults`,
  );
}, 30_000);
await Promise.all([
  breakServers(stack, random.fork(), isOver, faults),
  ...(shards > 1 ? [moveAbout(sites, owner, random.fork(), isOver, faults)] : []),
  ...boards.map((board) => breakBoard(board, random.fork(), isOver, faults)),
  ...Array.from({ length: askers }, () =>
    runAsker({ url: stack.url, inlet: INLET, key: stack.key, random: random.fork(), answered, asks, isOver }),
  ),
  runHostileAsker({ ...hostile, random: random.fork() }),
  runHostileAsker({ ...hostile, random: random.fork() }),
  runHostileDevice({ ...hostile, random: random.fork() }),
]);
clearInterval(progress);

say("Everything is mended; waiting for what is open");
for (const board of boards) await board.setFault("none");
await untilSettled(stack.databaseUrl, boardStates);
const account = await readAccount(stack.databaseUrl);
const history = { account, answered, seen: witness, boards: boardStates(), shown: await shownStates() };
const zeros = judge({ ...history, unlawful: hostilities.done, pulses, autoOff });
const report = reportOf({
  ...{ minutes, seed, askers, instances, shards, starts: stack.starts, faults, answered },
  ...{ account, zeros, hostile: hostilities.tried },
});
process.stdout.write(`\n${report}\n`);
if (values.report) writeFileSync(values.report, report);
for (const [name, found] of zeros) for (const one of found.slice(0, 10)) say(`${name}: ${one}`);
await witness.stop();
await Promise.all(boards.map((board) => board.stop()));
await stack.close();
const clean = zeros.every(([, found]) => found.length === 0);
if (clean) stack.forget();
else say(`The logs are kept in ${stack.folder}.`);
process.exit(clean ? 0 : 1);

/** Each site gets a shard of its own. */
async function spread(): Promise<void> {
  await owner.changeShardCount(shards);
  const isLed = async () => (await owner.cluster()).shards.every(({ leader }) => leader !== null);
  if (!(await eventually(isLed, 10_000))) throw new Error("Not every shard has a leader.");
  for (const [shard, site] of sites.entries()) await owner.moveSite(site, shard);
}

/** What every channel is, by the boards themselves. */
function boardStates(): Map<string, unknown> {
  return new Map(
    boards.flatMap((board) =>
      Object.entries(board.state.contacts).map(([channel, is]) => [`${board.name}/${channel}`, is] as const),
    ),
  );
}

/** What the service shows of them. */
async function shownStates(): Promise<Map<string, unknown>> {
  const { sites } = await createClient({ baseUrl: stack.url, key: stack.memberKey }).board();
  return new Map(sites.flatMap((site) => site.channels).map((one) => [one.address, one.observed?.value ?? null]));
}

function say(line: string): void {
  process.stderr.write(`${new Date().toISOString().slice(11, 19)}  ${line}\n`);
}
