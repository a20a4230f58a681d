/**
 * The users of devices at every broker of the installation. Each change goes to all of them. One that is away then, comes back without
 * its memory or is new gets what it lacks as soon as it answers: the database has what each user shows there, sealed.
 */
import { type DeviceAccess, RelayError } from "@bold-relay/core";
import { unsealed } from "../auth/seal.ts";
import type { Log } from "../platform/log.ts";
import { type BrokerUserRecord, findAllAccess, findBrokerUsers } from "../store/device-users.ts";
import type { Pool } from "../store/pool.ts";
import type { BrokerAdmin, BrokerCommand } from "./broker-admin.ts";

export interface BrokerUsersDeps {
  /** One for each broker; at least one. */
  readonly admins: readonly BrokerAdmin[];
  readonly pool: Pool;
  readonly secretsKey: Buffer | undefined;
  readonly log: Log;
}

/** A broker that has everything is looked at again after so long, ms: it may have been set up anew. */
const LOOK_AGAIN_MS = 60_000;

/** A user as `listClients` of the plugin lists it. */
interface Listed {
  readonly username: string;
}

export class BrokerUsers {
  private readonly deps: BrokerUsersDeps;
  /** When each broker was last seen to have everything, by `performance.now()`. */
  private readonly wholeAt = new Map<BrokerAdmin, number>();

  constructor(deps: BrokerUsersDeps) {
    this.deps = deps;
  }

  /**
   * Carries out one command at every broker. One that does not answer gets it later.
   *
   * @throws RelayError broker-admin-failed when none of them has carried it out
   */
  async run(command: BrokerCommand, tolerated: readonly string[] = []): Promise<void> {
    const { admins } = this.deps;
    const results = await Promise.allSettled(admins.map((admin) => admin.run(command, tolerated)));
    for (const [at, admin] of admins.entries()) if (results[at]?.status === "rejected") this.wholeAt.delete(admin);
    const failed = results.find((one) => one.status === "rejected");
    if (failed && results.every(({ status }) => status === "rejected")) throw failed.reason;
  }

  /** Every broker is looked at with the next `complete`: the one in use may be another one now. */
  doubt(): void {
    this.wholeAt.clear();
  }

  /** Gives each broker what it lacks, and takes away what it should not have. One that does not answer is tried again. */
  async complete(): Promise<void> {
    const doubtful = this.deps.admins.filter((admin) => {
      const at = this.wholeAt.get(admin);
      return at === undefined || performance.now() - at > LOOK_AGAIN_MS;
    });
    await Promise.all(doubtful.map((admin) => this.completeOne(admin)));
  }

  async stop(): Promise<void> {
    await Promise.all(this.deps.admins.map((admin) => admin.stop()));
  }

  private async completeOne(admin: BrokerAdmin): Promise<void> {
    const { pool, log } = this.deps;
    try {
      const users = await findBrokerUsers(pool);
      if (users.length > 0) {
        const there = await listClients(admin);
        const lacking = users.filter(({ username, dropped }) => !dropped && !there.has(username));
        for (const { username, dropped } of users)
          if (dropped && there.has(username)) await admin.run({ command: "deleteClient", username }, GONE);
        if (lacking.length > 0) await this.add(admin, lacking);
      }
      this.wholeAt.set(admin, performance.now());
    } catch (error) {
      // Without it nobody is served the worse: it is not in use, or the link says that it is away.
      log.debug({ err: error }, "a broker could not be given its users, it will be tried again");
    }
  }

  private async add(admin: BrokerAdmin, users: readonly BrokerUserRecord[]): Promise<void> {
    const { pool, secretsKey, log } = this.deps;
    const access = await findAllAccess(pool);
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

/** Literal topics only: nothing that a device writes in its own name can become a wildcard. */
function aclsOf({ reads, writes }: DeviceAccess): object[] {
  const acl = (acltype: string, topic: string) => ({ acltype, topic, priority: 0, allow: true });
  return [
    ...reads.flatMap((topic) => [acl("subscribeLiteral", topic), acl("publishClientReceive", topic)]),
    ...writes.map((topic) => acl("publishClientSend", topic)),
  ];
}

async function listClients(admin: BrokerAdmin): Promise<Set<string>> {
  const data = await admin.ask({ command: "listClients", verbose: true });
  const { clients } = (data ?? {}) as { clients?: readonly Listed[] };
  if (!Array.isArray(clients)) throw new RelayError("broker-admin-failed", { why: "it does not list its users" });
  return new Set(clients.map(({ username }) => username));
}
