/** What goes wrong, drawn from the seed: one thing with the servers at a time, and the boards whenever they like. */
import { setTimeout as pause } from "node:timers/promises";
import type { Client } from "@bold-relay/api";
import { FAULTS, type RelayBoard } from "@bold-relay/standins";
import pg from "pg";
import type { Random } from "./random.ts";
import type { SoakStack } from "./soak-stack.ts";

/** Ends every connection of the service: what was changed for new ones counts from then on. */
const CUT =
  "select pg_terminate_backend(pid) from pg_stat_activity where application_name = 'bold-relay' and pid <> pg_backend_pid()";

type ServerFault = (stack: SoakStack, random: Random) => Promise<void>;

/** Each breaks something, waits, and mends it again. */
const serverFaults: Readonly<Record<string, ServerFault>> = {
  "service killed (-9)": async (stack, random) => {
    const one = random.below(stack.size);
    await stack.stopService(one, "SIGKILL");
    await pause(random.between(0, 5_000));
    await stack.startService(one);
  },
  "service stopped in order": async (stack, random) => {
    const one = random.below(stack.size);
    await stack.stopService(one, "SIGTERM");
    await pause(random.between(0, 1_500));
    await stack.startService(one);
  },
  "service frozen (STOP, CONT)": async (stack, random) => {
    const one = random.below(stack.size);
    stack.freeze(one, "SIGSTOP");
    // Mostly long enough for another instance to take over; now and then longer than the broker keeps a silent connection.
    await pause(random.next() < 0.1 ? 26_000 : random.between(500, 7_000));
    stack.freeze(one, "SIGCONT");
  },
  "broker restarted": async (stack, random) => {
    await stack.stopBroker("SIGTERM");
    await pause(random.between(0, 2_000));
    await stack.startBroker();
  },
  "broker restarted without its memory": async (stack, random) => {
    await stack.stopBroker("SIGKILL");
    await pause(random.between(0, 1_000));
    await stack.startBroker();
  },
  "broker away for longer than commands live": async (stack, random) => {
    await stack.stopBroker("SIGTERM");
    await pause(random.between(4_500, 7_000));
    await stack.startBroker();
  },
  "database restarted": async (stack, random) => {
    await stack.stopDatabase("SIGINT");
    await pause(random.between(0, 2_000));
    await stack.startDatabase();
  },
  "database killed (-9)": async (stack, random) => {
    await stack.stopDatabase("SIGKILL");
    await pause(random.between(0, 1_000));
    await stack.startDatabase();
  },
  "database connections cut": (stack) =>
    inDatabase(stack, async (db) => {
      await db.query(CUT);
    }),
  "database read-only": (stack, random) =>
    inServer(stack, async (db, database) => {
      await db.query(`alter database ${database} set default_transaction_read_only = on`);
      await db.query(CUT);
      await pause(random.between(500, 6_000));
      await db.query(`alter database ${database} reset default_transaction_read_only`);
    }),
  "database accepts no connections": (stack, random) =>
    inServer(stack, async (db, database) => {
      await db.query(`alter database ${database} allow_connections false`);
      await db.query(CUT);
      await pause(random.between(500, 6_000));
      await db.query(`alter database ${database} allow_connections true`);
    }),
  "database refuses the password": (stack, random) =>
    inServer(stack, async (db) => {
      const { username, password } = new URL(stack.databaseUrl);
      await db.query(`alter role ${username} password 'another'`);
      await db.query(CUT);
      await pause(random.between(500, 6_000));
      await db.query(`alter role ${username} password '${decodeURIComponent(password)}'`);
    }),
  "statements cancelled": (stack, random) =>
    inServer(stack, async (db) => {
      for (let left = random.between(5, 40); left > 0; left -= 1) {
        await db.query("select pg_cancel_backend(pid) from pg_stat_activity where application_name = 'bold-relay'");
        await pause(50);
      }
    }),
  "network to the database slow": (stack, random) => slowLine(stack, random, "database", random.between(30, 300)),
  "network to the broker slow": (stack, random) => slowLine(stack, random, "broker", random.between(30, 400)),
  "network to the database stands still": (stack, random) =>
    slowLine(stack, random, "database", Number.POSITIVE_INFINITY),
  "network to the broker stands still": (stack, random) => slowLine(stack, random, "broker", Number.POSITIVE_INFINITY),
  "journal locked beyond the statement's time": (stack, random) =>
    inDatabase(stack, async (db) => {
      await db.query("begin");
      await db.query("lock table open_command in access exclusive mode");
      await pause(random.next() < 0.2 ? 12_000 : random.between(500, 3_000));
      await db.query("rollback");
    }),
};

/** Of one instance, so that another one may be the better leader meanwhile. */
async function slowLine(stack: SoakStack, random: Random, to: "database" | "broker", delayMs: number): Promise<void> {
  const one = random.below(stack.size);
  stack.slow(one, to, delayMs);
  await pause(random.between(1_000, 9_000));
  stack.slow(one, to, 0);
}

async function inDatabase(stack: SoakStack, work: (db: pg.Client) => Promise<void>): Promise<void> {
  const db = new pg.Client(stack.databaseUrl);
  db.on("error", () => {
    // Cut together with the others.
  });
  await db.connect();
  await work(db).catch(() => {});
  await db.end().catch(() => {});
}

/** From another database of the server, by a connection that nothing here cuts: what is broken must be mended. */
async function inServer(stack: SoakStack, work: (db: pg.Client, database: string) => Promise<void>): Promise<void> {
  const url = new URL(stack.databaseUrl);
  const database = url.pathname.slice(1);
  url.pathname = "/template1";
  const db = new pg.Client(url.href);
  await db.connect();
  try {
    await work(db, database);
  } finally {
    await db.end();
  }
}

/** One thing with the servers at a time, until it is over. Counts what it did. */
export async function breakServers(
  stack: SoakStack,
  random: Random,
  isOver: () => boolean,
  counts: Record<string, number>,
): Promise<void> {
  while (!isOver()) {
    await pause(random.between(1_500, 7_000));
    const name = random.pick(Object.keys(serverFaults));
    counts[name] = (counts[name] ?? 0) + 1;
    await serverFaults[name]?.(stack, random);
    await stack.untilReady();
  }
}

/** Nothing is broken by it: a site goes to another shard, or a shard to another instance. */
export async function moveAbout(
  sites: readonly string[],
  owner: Client,
  random: Random,
  isOver: () => boolean,
  counts: Record<string, number>,
): Promise<void> {
  const count = (name: string) => {
    counts[name] = (counts[name] ?? 0) + 1;
  };
  while (!isOver()) {
    await pause(random.between(2_000, 9_000));
    const shard = random.below(sites.length);
    if (random.next() < 0.5) {
      // What is broken just now may keep it from moving.
      await owner.moveSite(random.pick([...sites]), shard).then(
        () => count("site moved to another shard"),
        () => count("site could not be moved"),
      );
      continue;
    }
    const able = await owner.cluster().then(
      ({ instances }) => instances.filter(({ alive }) => alive).map(({ name }) => name),
      () => [],
    );
    const to = random.next() < 0.3 || able.length === 0 ? null : random.pick(able);
    await owner.handOverLead(to, shard).then(
      () => count("leader of a shard chosen"),
      () => count("leader of a shard could not be chosen"),
    );
  }
}

/** A board's faults, power cuts, flapping links and hands at its switches, until it is over. */
export async function breakBoard(
  board: RelayBoard,
  random: Random,
  isOver: () => boolean,
  counts: Record<string, number>,
): Promise<void> {
  const count = (name: string) => {
    counts[name] = (counts[name] ?? 0) + 1;
  };
  while (!isOver()) {
    await pause(random.between(300, 4_000));
    const turn = random.next();
    if (turn < 0.2) {
      count("hand at a wall switch");
      // Its report waits for the line, which may be down: the hand has switched all the same.
      void board.flip(random.pick(["porch", "hall", "dim"]));
    } else if (turn < 0.28) {
      count("board's power cut");
      await board.powerCut();
    } else if (turn < 0.38) {
      count("board's link flapped");
      await board.flapLink();
    } else {
      const fault = random.pick(FAULTS);
      count(fault === "none" ? "board's fault ended" : `board ${fault}`);
      await board.setFault(fault);
      await pause(random.between(200, 3_000));
      await board.setFault("none");
    }
  }
}
