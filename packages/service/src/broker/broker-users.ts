/**
 * The users of devices at the brokers of the installation. A change is made where the service is connected, and counts as made only there:
 * that is the broker in use. The others are copies: one that was away, has forgotten or is new is put right as soon as it answers, from
 * the database, which has what each user shows there, sealed.
 */
import { type DeviceAccess, RelayError } from "@bold-relay/core";
import { unsealed } from "../auth/seal.ts";
import type { Log } from "../platform/log.ts";
import { type BrokerUserRecord, findAllAccess, findBrokerUsers } from "../store/device-users.ts";
import type { Pool } from "../store/pool.ts";
import type { BrokerAdmin, BrokerCommand } from "./broker-admin.ts";

export interface BrokerUsersDeps {
  /** Where the service is connected. */
  readonly inUse: BrokerAdmin;
  /** Every broker that may be in use, by its own address; one of them is the one in use. */
  readonly copies: readonly BrokerAdmin[];
  readonly pool: Pool;
  readonly secretsKey: Buffer | undefined;
  readonly log: Log;
}

/** A broker that was seen to be right is looked at again after so long, ms: it may have been set up anew. */
const LOOK_AGAIN_MS = 60_000;
/** So many names, and so many roles with their rights, are asked for at once: an answer has less than 1 MB then. */
const NAMES_AT_ONCE = 2_000;
const ROLES_AT_ONCE = 200;

/** A right as the plugin lists it. */
interface ListedAcl {
  readonly acltype: string;
  readonly topic: string;
  readonly allow: boolean;
}

export class BrokerUsers {
  private readonly deps: BrokerUsersDeps;
  /** When each broker was last seen to be right, by `performance.now()`. */
  private readonly rightAt = new Map<BrokerAdmin, number>();
  private completing: Promise<void> | null = null;

  constructor(deps: BrokerUsersDeps) {
    this.deps = deps;
  }

  /**
   * Carries out one command at the broker in use; the copies get it with the next `complete`.
   *
   * @throws RelayError broker-admin-failed when that broker has not carried it out
   */
  async run(command: BrokerCommand, tolerated: readonly string[] = []): Promise<void> {
    for (const copy of this.deps.copies) this.rightAt.delete(copy);
    await this.deps.inUse.run(command, tolerated);
  }

  /** Every broker is looked at with the next `complete`: the one in use may be another one now. */
  doubt(): void {
    this.rightAt.clear();
  }

  /** Gives each broker what it lacks, and takes away what it should not have. One that does not answer is tried again. */
  complete(): Promise<void> {
    this.completing ??= this.completeAll().finally(() => {
      this.completing = null;
    });
    return this.completing;
  }

  async stop(): Promise<void> {
    const { inUse, copies } = this.deps;
    await Promise.all([inUse, ...copies].map((admin) => admin.stop()));
    await this.completing;
  }

  private async completeAll(): Promise<void> {
    const { inUse, copies } = this.deps;
    await Promise.all(
      [inUse, ...copies].map(async (admin) => {
        const at = this.rightAt.get(admin);
        if (at === undefined || performance.now() - at > LOOK_AGAIN_MS) await this.completeOne(admin, at === undefined);
      }),
    );
  }

  /** @param isDoubtful rights may have changed while it was away; else only whether it still has the users is looked at */
  private async completeOne(admin: BrokerAdmin, isDoubtful: boolean): Promise<void> {
    const { pool, log } = this.deps;
    // Before it is looked at: a change meanwhile takes it away again.
    this.rightAt.set(admin, performance.now());
    try {
      const users = await findBrokerUsers(pool);
      if (users.length === 0) return;
      const access = await findAllAccess(pool);
      const there = await listNames(admin);
      const lacking = users.filter(({ username, dropped }) => !dropped && !there.has(username));
      if (isDoubtful) {
        await admin.run(DENY_BY_DEFAULT);
        for (const { username, dropped } of users)
          if (dropped && there.has(username)) await admin.run({ command: "deleteClient", username }, GONE);
        const devices = new Set(users.flatMap(({ device, dropped }) => (dropped ? [] : [device])));
        await this.putRightsRight(admin, devices, access);
      }
      if (lacking.length > 0) await this.add(admin, lacking, access);
    } catch (error) {
      this.rightAt.delete(admin);
      log.debug({ err: error }, "a broker could not be given the users of devices, it will be tried again");
    }
  }

  /** What a device may do is otherwise now, and the broker did not hear of it. */
  private async putRightsRight(
    admin: BrokerAdmin,
    devices: ReadonlySet<string>,
    access: ReadonlyMap<string, DeviceAccess>,
  ): Promise<void> {
    const there = await listRoles(admin);
    for (const device of devices) {
      const may = access.get(device);
      const has = there.get(roleOf(device));
      if (may === undefined || has === undefined || has === rightsText(aclsOf(may))) continue;
      for (const [command, tolerated] of roleCommands(device, may)) await admin.run(command, tolerated);
    }
  }

  private async add(
    admin: BrokerAdmin,
    users: readonly BrokerUserRecord[],
    access: ReadonlyMap<string, DeviceAccess>,
  ): Promise<void> {
    const { secretsKey, log } = this.deps;
    let unknown = 0;
    for (const { username, device, password: sealed } of users) {
      const password = sealed && unsealed(sealed, secretsKey);
      const may = access.get(device);
      if (!password || !may) {
        unknown += 1;
        continue;
      }
      for (const [command, tolerated] of roleCommands(device, may)) await admin.run(command, tolerated);
      await admin.run(newClient(username, password, device), ["Client already exists"]);
    }
    const given = users.length - unknown;
    if (given > 0) log.info({ users: given }, "a broker was given the users of devices that it lacked");
    if (unknown > 0)
      log.warn({ users: unknown }, "a broker lacks users of devices whose passwords are not on record: make new ones");
  }
}

export const GONE: readonly string[] = ["Client not found"];

const deny = (acltype: string) => ({ acltype, allow: false });
/** The plugin lets everybody receive what it was not told about: then a subscription that slips through would be heard. */
export const DENY_BY_DEFAULT: BrokerCommand = {
  command: "setDefaultACLAccess",
  acls: [deny("publishClientSend"), deny("publishClientReceive"), deny("subscribe")],
};

/** The command that makes a user: only with the client id of the same name, so that no device ends the connection of another. */
export function newClient(username: string, password: string, device: string): BrokerCommand {
  const roles = [{ rolename: roleOf(device) }];
  return { command: "createClient", username, clientid: username, password, roles };
}

/** What makes the broker permit a device its own topics, with what it may say against each command. */
export function roleCommands(device: string, access: DeviceAccess): [BrokerCommand, readonly string[]][] {
  const rolename = roleOf(device);
  return [
    [{ command: "createRole", rolename, acls: [] }, ["Role already exists"]],
    [{ command: "modifyRole", rolename, acls: aclsOf(access) }, []],
  ];
}

function roleOf(device: string): string {
  return `device ${device}`;
}

/**
 * Literal texts only: nothing that a device writes in its own name can become a wildcard. A filter is granted as it is written; what it
 * delivers is limited to the topics.
 */
function aclsOf({ reads, writes, filters }: DeviceAccess): ListedAcl[] {
  const acl = (acltype: string, topic: string) => ({ acltype, topic, priority: 0, allow: true });
  return [
    ...reads.flatMap((topic) => [acl("subscribeLiteral", topic), acl("publishClientReceive", topic)]),
    ...filters.map((filter) => acl("subscribeLiteral", filter)),
    ...writes.map((topic) => acl("publishClientSend", topic)),
  ];
}

/** Rights in a form in which two of them can be compared. */
function rightsText(acls: readonly ListedAcl[]): string {
  return acls
    .map(({ acltype, topic, allow }) => `${acltype} ${allow} ${topic}`)
    .sort()
    .join("\n");
}

async function listNames(admin: BrokerAdmin): Promise<Set<string>> {
  return new Set(await listed<string>(admin, "listClients", "clients", false, NAMES_AT_ONCE));
}

/** The rights of each role, as `rightsText` has them. */
async function listRoles(admin: BrokerAdmin): Promise<Map<string, string>> {
  type Listed = { readonly rolename: string; readonly acls?: readonly ListedAcl[] };
  const roles = await listed<Listed>(admin, "listRoles", "roles", true, ROLES_AT_ONCE);
  return new Map(roles.map(({ rolename, acls = [] }) => [rolename, rightsText(acls)]));
}

/** Everything that a command of the plugin lists, a page at a time. */
async function listed<Item>(
  admin: BrokerAdmin,
  command: string,
  field: string,
  verbose: boolean,
  count: number,
): Promise<Item[]> {
  const all: Item[] = [];
  for (;;) {
    const data = (await admin.ask({ command, verbose, count, offset: all.length })) as
      | Record<string, unknown>
      | undefined;
    const page = data?.[field];
    if (!Array.isArray(page)) throw new RelayError("broker-admin-failed", { why: `it does not answer ${command}` });
    all.push(...(page as Item[]));
    if (page.length < count) return all;
  }
}
