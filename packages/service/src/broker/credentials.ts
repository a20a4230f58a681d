/**
 * What devices show at the broker: a user of their own, for their own topics only. Made by the service, shown once, turned over
 * with an overlap, taken back at once; and changed with the device when its channels change.
 */
import { randomBytes } from "node:crypto";
import { accessOf, type DeviceAccess, RelayError } from "@bold-relay/core";
import type { Clock } from "../platform/clock.ts";
import type { Log } from "../platform/log.ts";
import type { Board } from "../state/board.ts";
import {
  type DeviceUser,
  dropUser,
  findAccess,
  findUsers,
  nextUserNumber,
  retireUsers,
  saveAccess,
  saveUser,
} from "../store/device-users.ts";
import type { Pool } from "../store/pool.ts";
import type { BrokerAdmin } from "./broker-admin.ts";

export interface CredentialsDeps {
  readonly clock: Clock;
  readonly log: Log;
  readonly pool: Pool;
  readonly board: Board;
  /** null: the service has no user at the broker who may make others. */
  readonly admin: BrokerAdmin | null;
}

export interface NewCredentials {
  readonly username: string;
  /** The only one that it may connect with. */
  readonly clientId: string;
  readonly password: string;
}

const RETIRE_EVERY_MS = 30_000;

export class Credentials {
  private readonly deps: CredentialsDeps;
  private timer: NodeJS.Timeout | null = null;
  private isClosed = false;
  /** One change after the other: two at once could make the same name. */
  private turn: Promise<unknown> = Promise.resolve();

  constructor(deps: CredentialsDeps) {
    this.deps = deps;
  }

  start(): void {
    if (this.deps.admin) this.timer = setInterval(() => void this.retire(), RETIRE_EVERY_MS);
  }

  async stop(): Promise<void> {
    if (this.timer) clearInterval(this.timer);
    await this.turn;
    await this.deps.admin?.stop();
  }

  users(): Promise<DeviceUser[]> {
    return findUsers(this.deps.pool);
  }

  /**
   * Makes a user for the device; those that it has so far end, after the overlap.
   *
   * @throws RelayError no-broker-admin, broker-admin-failed
   */
  make(device: string, overlapMs: number): Promise<NewCredentials> {
    return this.inTurn(async () => {
      const { pool, clock } = this.deps;
      const admin = this.requireAdmin();
      // Even if it is what it was: a broker that was set up anew has forgotten it.
      await this.setAccess(device, accessOf(this.deps.board.channelsOf(device)), true);
      const number = await nextUserNumber(pool, device);
      const username = `${device.replace("/", ".")}.${number}`;
      const password = randomBytes(24).toString("base64url");
      // On record first: one that the broker has and nobody knows of could never be taken back.
      await saveUser(pool, username, device);
      // Only with this client id: no device ends the connection of another, or the service's, by calling itself so.
      const roles = [{ rolename: roleOf(device) }];
      await admin.run({ command: "createClient", username, clientid: username, password, roles });
      await retireUsers(pool, device, username, clock.now() + overlapMs);
      if (overlapMs === 0) await this.dropRetired();
      return { username, clientId: username, password };
    });
  }

  /** Takes back every user of the device, at once: whoever is connected with one is cut off. */
  revoke(device: string): Promise<void> {
    return this.inTurn(async () => {
      this.requireAdmin();
      await retireUsers(this.deps.pool, device, null, 0);
      await this.dropRetired();
    });
  }

  /** The model has changed: what devices may do changes with it, and a device that is gone loses its users. */
  async refresh(): Promise<void> {
    if (!this.deps.admin) return;
    await this.inTurn(async () => {
      const { pool, board } = this.deps;
      const devices = new Set((await findUsers(pool)).map(({ device }) => device));
      for (const device of devices) {
        const channels = board.channelsOf(device);
        if (channels.length > 0) await this.setAccess(device, accessOf(channels));
        else await retireUsers(pool, device, null, 0);
      }
      await this.dropRetired();
    }).catch((error: unknown) => this.deps.log.warn({ err: error }, "the broker's users could not be changed"));
  }

  private async retire(): Promise<void> {
    await this.inTurn(() => this.dropRetired()).catch((error: unknown) =>
      this.deps.log.warn({ err: error }, "a user at the broker could not be retired, it will be tried again"),
    );
  }

  private async dropRetired(): Promise<void> {
    const { pool, clock, admin } = this.deps;
    const over = (await findUsers(pool)).filter(({ retiresAt }) => retiresAt !== null && retiresAt <= clock.now());
    for (const { username } of over) {
      await admin?.run({ command: "deleteClient", username }, ["Client not found"]);
      await dropUser(pool, username);
    }
  }

  /** What the device may do, if that is not what it may do already. */
  private async setAccess(device: string, access: DeviceAccess, anew = false): Promise<void> {
    const { pool } = this.deps;
    const admin = this.requireAdmin();
    const known = await findAccess(pool, device);
    if (!anew && known && JSON.stringify(known) === JSON.stringify(access)) return;
    const rolename = roleOf(device);
    await this.closeByDefault(admin);
    await admin.run({ command: "createRole", rolename, acls: [] }, ["Role already exists"]);
    await admin.run({ command: "modifyRole", rolename, acls: aclsOf(access) });
    await saveAccess(pool, device, access);
  }

  /** The plugin lets everybody receive what it was not told about: then a subscription that slips through would be heard. */
  private async closeByDefault(admin: BrokerAdmin): Promise<void> {
    if (this.isClosed) return;
    const deny = (acltype: string) => ({ acltype, allow: false });
    const acls = [deny("publishClientSend"), deny("publishClientReceive"), deny("subscribe")];
    await admin.run({ command: "setDefaultACLAccess", acls });
    this.isClosed = true;
  }

  private requireAdmin(): BrokerAdmin {
    if (!this.deps.admin) throw new RelayError("no-broker-admin");
    return this.deps.admin;
  }

  private inTurn<Result>(work: () => Promise<Result>): Promise<Result> {
    const mine = this.turn.then(work);
    this.turn = mine.catch(() => {});
    return mine;
  }
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
