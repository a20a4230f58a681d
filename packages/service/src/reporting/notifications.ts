/**
 * Tells outside services what happened: a signed webhook (Standard Webhooks) or an MQTT message for each event that a notification
 * wants, on record before it is sent, tried until it is taken.
 */
import {
  cloudEvent,
  type NotificationDescription,
  type NotificationEvent,
  notificationWaitMs,
  type TopicTeller,
  topicTeller,
  wantsNotification,
} from "@bold-relay/core";
import { unsealed } from "../auth/seal.ts";
import { signatureOf } from "../auth/signature.ts";
import type { Calls } from "../platform/calls.ts";
import type { Clock } from "../platform/clock.ts";
import { newId } from "../platform/id.ts";
import type { Log } from "../platform/log.ts";
import {
  addToLog,
  findDue,
  findNotifications,
  type NotificationDelivery,
  settleDelivery,
} from "../store/notifications.ts";
import type { Pool } from "../store/pool.ts";

export interface NotificationsDeps {
  /** Whether this instance sends what all instances have put on record. */
  readonly isSender: () => boolean;
  readonly clock: Clock;
  readonly log: Log;
  readonly pool: Pool;
  readonly calls: Calls;
  readonly secretsKey: Buffer | undefined;
  /** Rejects with the reason when it may not be, or is not, published. */
  readonly publish: (notification: NotificationDescription, topic: string, payload: Uint8Array) => Promise<void>;
}

const LOOK_EVERY_MS = 1_000;
const AT_ONCE = 20;
/** Events that wait for the journal; beyond it they are dropped, and said to be. */
const MOST_WAITING = 10_000;

interface CompiledNotification {
  readonly notification: NotificationDescription;
  /** null: what it sends is not signed. `unreadable`: it should be, and cannot. */
  readonly secret: string | null | typeof UNREADABLE;
}

const UNREADABLE = Symbol("unreadable");

export class Notifications {
  private readonly deps: NotificationsDeps;
  private notifications: readonly CompiledNotification[] = [];
  private waiting: { id: string; notification: string; event: object }[] = [];
  private timer: NodeJS.Timeout | null = null;
  private turn: Promise<void> | null = null;
  private stopped = false;

  constructor(deps: NotificationsDeps) {
    this.deps = deps;
  }

  async start(): Promise<void> {
    await this.refresh();
    this.timer = setInterval(() => this.hurry(), LOOK_EVERY_MS);
  }

  async stop(): Promise<void> {
    this.stopped = true;
    if (this.timer) clearInterval(this.timer);
    await this.turn;
    // What is not on record by now is lost with this process: one last try.
    await this.record().catch(() => {});
  }

  /** Notifications have changed. */
  async refresh(): Promise<void> {
    this.notifications = (await findNotifications(this.deps.pool)).map(({ notification, secret }) => ({
      notification,
      secret: this.secretOf(secret),
    }));
  }

  /** Those that are published, for whoever must know whose a topic is. */
  get tellers(): readonly TopicTeller[] {
    return this.notifications.flatMap(({ notification }) => topicTeller(notification));
  }

  /** Something happened. It is put into words only where somebody may want to be told: it lies on the path of every request. */
  tell(eventOf: () => NotificationEvent): void {
    if (this.notifications.length === 0) return;
    const event = eventOf();
    for (const { notification } of this.notifications) {
      if (!wantsNotification(notification, event)) continue;
      if (this.waiting.length >= MOST_WAITING) {
        this.deps.log.warn(
          { notification: notification.slug },
          "a notification was dropped: too many wait for the journal",
        );
        continue;
      }
      const id = newId();
      this.waiting.push({ id, notification: notification.slug, event: cloudEvent(event, id, this.deps.clock.now()) });
    }
    if (this.waiting.length > 0) this.hurry();
  }

  private hurry(): void {
    this.turn ??= this.work()
      .catch((error: unknown) => this.deps.log.warn({ err: error }, "notifications wait"))
      .finally(() => {
        this.turn = null;
      });
  }

  private async work(): Promise<void> {
    await this.record();
    for (let due = await this.due(); due.length > 0 && !this.stopped; due = await this.due()) {
      await Promise.all(due.map((delivery) => this.deliver(delivery)));
    }
  }

  private due(): Promise<NotificationDelivery[]> {
    return this.notifications.length === 0 || !this.deps.isSender()
      ? Promise.resolve([])
      : findDue(this.deps.pool, AT_ONCE);
  }

  private async record(): Promise<void> {
    const all = this.waiting;
    if (all.length === 0) return;
    this.waiting = [];
    try {
      await addToLog(this.deps.pool, all);
    } catch (error) {
      this.waiting = [...all, ...this.waiting].slice(0, MOST_WAITING);
      throw error;
    }
  }

  private async deliver(delivery: NotificationDelivery): Promise<void> {
    const { pool, log } = this.deps;
    const told = this.notifications.find(({ notification }) => notification.slug === delivery.notification);
    const trouble = told
      ? await this.send(told, delivery).catch((error: Error) => error.message)
      : "the notification is gone";
    const waitMs = trouble === null ? null : notificationWaitMs(delivery.tries + 1);
    if (trouble !== null && waitMs === null)
      log.warn({ notification: delivery.notification, trouble }, "a notification was given up");
    await settleDelivery(pool, delivery.id, trouble?.slice(0, 300) ?? null, waitMs);
  }

  /** @returns what went wrong; null when it was taken */
  private async send(
    { notification, secret }: CompiledNotification,
    { id, event }: NotificationDelivery,
  ): Promise<string | null> {
    const { to } = notification;
    const body = JSON.stringify(event);
    if ("topic" in to) {
      await this.deps.publish(notification, to.topic, Buffer.from(body));
      return null;
    }
    if (secret === UNREADABLE) return "its secret cannot be read with BOLD_RELAY_SECRETS_KEY: make a new one";
    const timestamp = Math.floor(Date.now() / 1000);
    const signed: Record<string, string> =
      secret === null ? {} : { "webhook-signature": signatureOf(secret, id, timestamp, body) };
    const headers = {
      "content-type": "application/cloudevents+json",
      "webhook-id": id,
      "webhook-timestamp": String(timestamp),
      ...signed,
    };
    const { status } = await this.deps.calls.fetch(to.url, { method: "POST", body, headers });
    return status < 300 ? null : `it answered ${status}`;
  }

  private secretOf(secret: Buffer | null): CompiledNotification["secret"] {
    return secret === null ? null : (unsealed(secret, this.deps.secretsKey) ?? UNREADABLE);
  }
}
