/**
 * What devices show at the broker: a user of their own, for their own topics only. Made by the service, shown once, turned over
 * with an overlap, taken back at once; and changed with the device when its channels change.
 */
import { randomBytes } from "node:crypto";
import { accessOf, type DeviceAccess, RelayError } from "@bold-relay/core";
import { seal } from "../auth/seal.ts";
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
import { type BrokerUsers, DENY_BY_DEFAULT, GONE, newClient, roleCommands } from "./broker-users.ts";

export interface CredentialsDeps {
  readonly clock: Clock;
  readonly log: Log;
  readonly pool: Pool;
  readonly board: Board;
  /** null: the service has no user at the broker who may make others. */
  readonly brokerUsers: BrokerUsers | null;
  /** Without it a password is the broker's alone to know. */
  readonly secretsKey: Buffer | undefined;
}

export interface NewCredentials {
  readonly username: string;
  /** The only one that it may connect with. */
  readonly clientId: string;
  readonly password: string;
}

/** How soon what is over is taken back, and a broker that lacks users gets them, ms. */
const LOOK_EVERY_MS = 5_000;

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
    if (!this.deps.brokerUsers) return;
    this.timer = setInterval(() => void this.look(), LOOK_EVERY_MS);
    void this.widen();
    void this.look();
  }

  /** Another instance looks after them from now on. */
  pause(): void {
    if (this.timer) clearInterval(this.timer);
    this.timer = null;
  }

  async stop(): Promise<void> {
    this.pause();
    await this.turn;
    await this.deps.brokerUsers?.stop();
  }

  /** The link is up: perhaps at another broker, or at one that has forgotten. */
  linkUp(): void {
    if (!this.timer) return;
    this.deps.brokerUsers?.doubt();
    void this.widen();
    void this.look();
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
      const { pool, clock, secretsKey } = this.deps;
      const brokerUsers = this.requireBrokerUsers();
      // Even if it is what it was: a broker that was set up anew has forgotten it.
      await this.setAccess(device, accessOf(this.deps.board.channelsOf(device)), true);
      const number = await nextUserNumber(pool, device);
      const username = `${device.replace("/", ".")}.${number}`;
      const password = randomBytes(24).toString("base64url");
      // On record first: one that the broker has and nobody knows of could never be taken back.
      await saveUser(pool, username, device, secretsKey ? seal(password, secretsKey) : null);
      await brokerUsers.run(newClient(username, password, device));
      await retireUsers(pool, device, username, clock.now() + overlapMs);
      if (overlapMs === 0) await this.dropRetired();
      void brokerUsers.complete();
      return { username, clientId: username, password };
    });
  }

  /** Takes back every user of the device, at once: whoever is connected with one is cut off. */
  revoke(device: string): Promise<void> {
    return this.inTurn(async () => {
      const brokerUsers = this.requireBrokerUsers();
      await retireUsers(this.deps.pool, device, null, 0);
      await this.dropRetired();
      void brokerUsers.complete();
    });
  }

  /** The model has changed: what devices may do changes with it, and a device that is gone loses its users. */
  async refresh(): Promise<void> {
    if (!this.deps.brokerUsers) return;
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

  /** A newer version may permit devices more than was on record; nobody's user is taken back for what an old picture lacks. */
  private async widen(): Promise<void> {
    await this.inTurn(async () => {
      for (const { device } of await findUsers(this.deps.pool)) {
        const channels = this.deps.board.channelsOf(device);
        if (channels.length > 0) await this.setAccess(device, accessOf(channels));
      }
    }).catch((error: unknown) =>
      this.deps.log.warn({ err: error }, "rights at the broker could not be brought up to date"),
    );
  }

  private async look(): Promise<void> {
    await this.inTurn(() => this.dropRetired()).catch((error: unknown) =>
      this.deps.log.warn({ err: error }, "a user at the broker could not be retired, it will be tried again"),
    );
    // Beside the turns: a broker that is away holds up no change at the one in use.
    await this.deps.brokerUsers?.complete();
  }

  private async dropRetired(): Promise<void> {
    const { pool, clock, brokerUsers } = this.deps;
    const over = (await findUsers(pool)).filter(({ retiresAt }) => retiresAt !== null && retiresAt <= clock.now());
    for (const { username } of over) {
      await brokerUsers?.run({ command: "deleteClient", username }, GONE);
      await dropUser(pool, username);
    }
  }

  /** What the device may do, if that is not what it may do already. */
  private async setAccess(device: string, access: DeviceAccess, anew = false): Promise<void> {
    const { pool } = this.deps;
    const brokerUsers = this.requireBrokerUsers();
    const known = await findAccess(pool, device);
    if (!anew && known && JSON.stringify(known) === JSON.stringify(access)) return;
    await this.closeByDefault(brokerUsers);
    for (const [command, tolerated] of roleCommands(device, access)) await brokerUsers.run(command, tolerated);
    await saveAccess(pool, device, access);
  }

  private async closeByDefault(brokerUsers: BrokerUsers): Promise<void> {
    if (this.isClosed) return;
    await brokerUsers.run(DENY_BY_DEFAULT);
    this.isClosed = true;
  }

  private requireBrokerUsers(): BrokerUsers {
    if (!this.deps.brokerUsers) throw new RelayError("no-broker-admin");
    return this.deps.brokerUsers;
  }

  private inTurn<Result>(work: () => Promise<Result>): Promise<Result> {
    const mine = this.turn.then(work);
    this.turn = mine.catch(() => {});
    return mine;
  }
}
