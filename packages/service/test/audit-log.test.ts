/** The audit log: a row and a structured log line for each entry; refusals are not repeated. */
import { Writable } from "node:stream";
import pino from "pino";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { AuditLog } from "../src/auth/audit-log.ts";
import { poll } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;
const lines: Record<string, unknown>[] = [];
const log = pino(
  { level: "info" },
  new Writable({
    write(line: Buffer, _encoding, done) {
      lines.push(JSON.parse(line.toString("utf8")));
      done();
    },
  }),
);

beforeAll(async () => {
  world = await createWorld({ start: false });
});
afterAll(() => world.stop());

const INES = { name: "Ines", memberId: 7, keyId: 3, address: "192.0.2.1" };
const rows = async () =>
  (await world.pool.query("select actor, member_id, key_id, address, action, object from audit order by id")).rows;

describe("an entry", () => {
  it("is a row and a line, with who, by which key and from where, and without what was in it", async () => {
    const audit = new AuditLog(world.pool, log);
    const entry = {
      actor: { ...INES, tokenSha256: "never" },
      action: "key created",
      object: "wall panel, of Ines",
    } as const;
    await audit.record({ ...entry, after: { secret: "not in the line" } });
    expect(await rows()).toEqual([
      {
        actor: "Ines",
        member_id: 7,
        key_id: 3,
        address: "192.0.2.1",
        action: "key created",
        object: "wall panel, of Ines",
      },
    ]);
    expect(lines.at(-1)).toMatchObject({
      msg: "key created",
      audit: { ...INES, action: "key created", object: "wall panel, of Ines" },
    });
    expect(JSON.stringify(lines)).not.toMatch(/never|not in the line/);
  });

  it("of a refusal stands once a minute for each who, what and where", async () => {
    const audit = new AuditLog(world.pool, log);
    const before = (await rows()).length;
    for (let turn = 0; turn < 50; turn += 1) audit.recordRefusal(INES, "refused by right", "GET /members");
    audit.recordRefusal({ ...INES, address: "192.0.2.2" }, "refused by right", "GET /members");
    audit.recordRefusal(INES, "refused by right", "GET /audit");
    const found = await poll(rows, (all) => all.length >= before + 3);
    expect(found.length).toBe(before + 3);
  });
});
