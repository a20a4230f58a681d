/** The database refuses for a while, in each way that it can: nothing is lost, and nothing stays open once it is well again. */
import { ProblemError } from "@bold-relay/api";
import pg from "pg";
import { describe, expect, inject, it } from "vitest";
import { createLog, startService } from "../src/index.ts";
import { poll } from "./support/until.ts";
import { createWorld, INLET, type World } from "./support/world.ts";

interface Lab {
  readonly world: World;
  /** The service's own role and database. */
  readonly role: string;
  readonly database: string;
  /** As superuser, in another database and in the service's own. */
  readonly admin: pg.Client;
  readonly inside: pg.Client;
}

interface Fault {
  /** Whether a session or key can still be looked up, so that members can look at alerts meanwhile. */
  readonly reads: boolean;
  /** What is wrong, as the service says it. */
  readonly says: RegExp;
  readonly breaks: (lab: Lab) => Promise<() => Promise<void>>;
}

const PASSWORD = "as it should be";

/** A world whose service connects as a role of its own: a superuser is refused nothing. */
async function createLab(): Promise<Lab> {
  const world = await createWorld({ start: false });
  const database = world.site.replace("-", "_");
  const role = `role_${database}`;
  const admin = new pg.Client(inject("databaseUrl"));
  await admin.connect();
  const within = new URL(inject("databaseUrl"));
  within.pathname = `/${database}`;
  const inside = new pg.Client(within.href);
  inside.on("error", () => {
    // Cut off together with the service.
  });
  await inside.connect();
  await admin.query(`create role ${role} login password '${PASSWORD}'`);
  await admin.query(`alter database ${database} owner to ${role}`);
  await inside.query(`
    do $$ declare one record; begin
      for one in select c.oid::regclass as name, relkind from pg_class c join pg_namespace n on n.oid = relnamespace
        where nspname = 'public' and relkind in ('r', 'p', 'v') loop
        execute format('alter table %s owner to ${role}', one.name);
      end loop;
      for one in select p.oid::regprocedure as name from pg_proc p join pg_namespace n on n.oid = pronamespace
        where nspname = 'public' loop
        execute format('alter function %s owner to ${role}', one.name);
      end loop;
    end $$`);
  await inside.query(`grant all on schema public to ${role}`);
  // The world looks at what became of it, as the role that made the database.
  await inside.query("grant usage on schema public to bold_relay");
  await inside.query("grant select, update on all tables in schema public to bold_relay");
  const url = new URL(world.config.databaseUrl);
  url.username = role;
  url.password = PASSWORD;
  world.service = await startService({ ...world.config, databaseUrl: url.href }, createLog("silent"));
  await world.service.linked;
  // The inlet's key is looked up once while that can be done.
  await fetch(`${world.service.url}/in/${INLET}`, {
    method: "POST",
    headers: { authorization: `Bearer ${world.inletKey}` },
  });
  return { world, role, database, admin, inside };
}

async function closeLab({ world, admin, inside }: Lab): Promise<void> {
  await world.stop();
  await inside.end().catch(() => {});
  await admin.end();
}

/** Ends the service's connections, so that what was changed for new ones counts. */
async function cut({ admin, role }: Lab): Promise<void> {
  await admin.query("select pg_terminate_backend(pid) from pg_stat_activity where usename = $1", [role]);
}

/** Changes something for new connections, and back. */
function setting(broken: (lab: Lab) => string, well: (lab: Lab) => string): Fault["breaks"] {
  return async (lab) => {
    await lab.admin.query(broken(lab));
    await cut(lab);
    return async () => void (await lab.admin.query(well(lab)));
  };
}

/** Changes something in the service's own database, and back. */
function inside(broken: (lab: Lab) => string, well: (lab: Lab) => string): Fault["breaks"] {
  return async (lab) => {
    await lab.inside.query(broken(lab));
    return async () => void (await lab.inside.query(well(lab)));
  };
}

const faults: Readonly<Record<string, Fault>> = {
  "is read-only, like a primary that became a standby (25006)": {
    reads: true,
    says: /read-only/,
    breaks: setting(
      ({ database }) => `alter database ${database} set default_transaction_read_only = on`,
      ({ database }) => `alter database ${database} reset default_transaction_read_only`,
    ),
  },
  "refuses the password (28P01)": {
    reads: false,
    says: /refuses the service's user or password/,
    breaks: setting(
      ({ role }) => `alter role ${role} password 'another'`,
      ({ role }) => `alter role ${role} password '${PASSWORD}'`,
    ),
  },
  "has no role of this name that may connect (28000)": {
    reads: false,
    says: /refuses the service's user or password/,
    breaks: setting(
      ({ role }) => `alter role ${role} nologin`,
      ({ role }) => `alter role ${role} login`,
    ),
  },
  "accepts no connections (55000)": {
    reads: false,
    says: /accepts no connections/,
    breaks: setting(
      ({ database }) => `alter database ${database} allow_connections false`,
      ({ database }) => `alter database ${database} allow_connections true`,
    ),
  },
  "has no free connection slots (53300)": {
    reads: false,
    says: /connection slots/,
    breaks: setting(
      ({ role }) => `alter role ${role} connection limit 0`,
      ({ role }) => `alter role ${role} connection limit -1`,
    ),
  },
  "has lost a right of the service's role (42501)": {
    reads: true,
    says: /lacks a right/,
    breaks: inside(
      ({ role }) => `revoke insert, update, delete on request, open_command, command, state_change from ${role}`,
      ({ role }) => `grant all on request, open_command, command, state_change to ${role}`,
    ),
  },
  "has lost a table for a while (42P01)": {
    reads: true,
    says: /not those of this version/,
    breaks: inside(
      () => "alter table open_command rename to open_command_away",
      () => "alter table open_command_away rename to open_command",
    ),
  },
  "cancels statements, behind a lock (57014)": {
    reads: true,
    says: /cancelled|locked/,
    async breaks(lab) {
      await lab.inside.query("begin; lock table open_command in access exclusive mode");
      const cancel = setInterval(() => {
        lab.admin
          .query("select pg_cancel_backend(pid) from pg_stat_activity where usename = $1 and state = 'active'", [
            lab.role,
          ])
          .catch(() => {});
      }, 50);
      return async () => {
        clearInterval(cancel);
        await lab.inside.query("rollback");
      };
    },
  },
};

describe.concurrent("while the database", () => {
  it.concurrent.each(Object.entries(faults))("%s, nothing is lost", { timeout: 90_000 }, async (_name, fault) => {
    const lab = await createLab();
    try {
      await staysWhole(lab, fault);
    } finally {
      await closeLab(lab);
    }
  });
});

async function staysWhole(lab: Lab, { reads, says, breaks }: Fault): Promise<void> {
  const { world } = lab;
  const { client } = world;
  const board = await world.board("wren");
  await world.ask("wren/path", "on");
  // What is under way when it begins: the board answers while nothing can be stored.
  await board.setFault("slow");
  const under = await client.ask({ target: world.address("wren/porch"), action: "on" });
  const mend = await breaks(lab);
  const refused = await askOnInlet(world, "hall");
  expect(refused.status).toBe(503);
  expect(Number(refused.headers.get("retry-after"))).toBeGreaterThan(0);
  expect(await refused.json()).toMatchObject({ code: "database-unavailable", retryable: true });
  // A hand at the wall meanwhile: that too is kept.
  await board.setFault("none");
  await board.flip("path");
  const health = await poll(
    () => healthOf(world),
    ({ ready }) => !ready,
  );
  expect(health.waitsFor).toEqual(["database"]);
  expect(health.trouble).toMatch(says);
  expect(health.trouble).not.toContain("role_");
  if (reads) {
    const alerts = await poll(
      () => client.alerts(),
      (all) => all.some(({ kind }) => kind === "database-unavailable"),
    );
    expect(alerts[0]?.text).toMatch(says);
  }

  await mend();
  const done = await poll(
    () => unlessTrouble(client.request(under.id)),
    (one) => one !== null && one.outcome !== "open",
  );
  expect(done?.outcome).toBe("delivered");
  // Whoever was told that nobody knows: it was kept, and has its end.
  await poll(
    () => count(lab, "select count(*) from command where ended = 'delivered'"),
    (delivered) => delivered === 3,
  );
  expect(await count(lab, "select count(*) from open_command")).toBe(0);
  await poll(
    () => count(lab, "select count(*) from state_change where cause = 'hand'"),
    (changes) => changes === 1,
  );
  await poll(
    () => healthOf(world),
    ({ ready }) => ready,
  );
  await poll(
    () => client.alerts(),
    (all) => all.every(({ kind }) => kind !== "database-unavailable"),
  );
}

/** By an inlet: its key is known to the service already. */
function askOnInlet(world: World, channel: string): Promise<Response> {
  return fetch(`${world.service.url}/in/${INLET}`, {
    method: "POST",
    headers: { authorization: `Bearer ${world.inletKey}`, "content-type": "application/json" },
    body: JSON.stringify({ target: world.address(`wren/${channel}`), action: "on" }),
  });
}

async function healthOf({ service }: World): Promise<{ ready: boolean; waitsFor: string[]; trouble?: string }> {
  return (await fetch(`${service.url}/health/ready`)).json();
}

/** null while the database cannot be used. */
async function unlessTrouble<Answer>(work: Promise<Answer>): Promise<Answer | null> {
  return work.catch((error: unknown) => {
    if (error instanceof ProblemError && error.problem.status === 503) return null;
    throw error;
  });
}

/** By a connection that stands: the role of the test's own pool may not open another to this database any more. */
async function count({ inside }: Lab, sql: string): Promise<number> {
  return Number((await inside.query<{ count: number }>(sql)).rows[0]?.count);
}
