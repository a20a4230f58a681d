/**
 * Tells outside services what happened: a signed webhook (Standard Webhooks) or an MQTT message for each event that a notice
 * wants, on record before it is sent, tried until it is taken.
 */
import {
  cloudEvent,
  type NoticeDescription,
  type NoticeEvent,
  noticeWaitMs,
  type TopicTeller,
  wantsNotice,
} from "@bold-relay/core";
import { unsealed } from "../auth/seal.ts";
import { signatureOf } from "../auth/signature.ts";
import type { Calls } from "../platform/calls.ts";
import type { Clock } from "../platform/clock.ts";
import { newId } from "../platform/id.ts";
import type { Log } from "../platform/log.ts";
import { addDeliveries, findDue, findNotices, type NoticeDelivery, settleDelivery } from "../store/notices.ts";
import type { Pool } from "../store/pool.ts";

export interface NotificationsDeps {
  readonly clock: Clock;
  readonly log: Log;
  readonly pool: Pool;
  readonly calls: Calls;
  readonly secretsKey: Buffer | undefined;
  /** Rejects with the reason when it may not be, or is not, published. */
  readonly publish: (notice: NoticeDescription, topic: string, payload: Uint8Array) => Promise<void>;
}

const LOOK_EVERY_MS = 1_000;
const AT_ONCE = 20;
/** Events that wait for the journal; beyond it they are dropped, and said to be. */
const MOST_WAITING = 10_000;

interface CompiledNotification {
  readonly notice: NoticeDescription;
  /** null: what it sends is not signed. `unreadable`: it should be, and cannot. */
  readonly secret: string | null | typeof UNREADABLE;
}

const UNREADABLE = Symbol("unreadable");

export class Notices {
  private readonly deps: NotificationsDeps;
  private notices: readonly CompiledNotification[] = [];
  private waiting: { id: string; notice: string; event: object }[] = [];
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

  /** Notices have changed. */
  async refresh(): Promise<void> {
    this.notices = (await findNotices(this.deps.pool)).map(({ notice, secret }) => ({
      notice,
      secret: this.secretOf(secret),
    }));
  }

  /** Those that are published, for whoever must know whose a topic is. */
  get tellers(): readonly TopicTeller[] {
    return this.notices.flatMap(({ notice: { slug, site, to } }) =>
      "topic" in to ? [{ slug, site, topic: to.topic }] : [],
    );
  }

  /** Something happened. It is put into words only where somebody may want to be told: it lies on the path of every request. */
  tell(eventOf: () => NoticeEvent): void {
    if (this.notices.length === 0) return;
    const event = eventOf();
    for (const { notice } of this.notices) {
      if (!wantsNotice(notice, event)) continue;
      if (this.waiting.length >= MOST_WAITING) {
        this.deps.log.warn({ notice: notice.slug }, "a notice was dropped: too many wait for the journal");
        continue;
      }
      const id = newId();
      this.waiting.push({ id, notice: notice.slug, event: cloudEvent(event, id, this.deps.clock.now()) });
    }
    if (this.waiting.length > 0) this.hurry();
  }

  private hurry(): void {
    this.turn ??= this.work()
      .catch((error: unknown) => this.deps.log.warn({ err: error }, "notices wait"))
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

  private due(): Promise<NoticeDelivery[]> {
    return this.notices.length === 0 ? Promise.resolve([]) : findDue(this.deps.pool, AT_ONCE);
  }

  private async record(): Promise<void> {
    const all = this.waiting;
    if (all.length === 0) return;
    this.waiting = [];
    try {
      await addDeliveries(this.deps.pool, all);
    } catch (error) {
      this.waiting = [...all, ...this.waiting].slice(0, MOST_WAITING);
      throw error;
    }
  }

  private async deliver(delivery: NoticeDelivery): Promise<void> {
    const { pool, log } = this.deps;
    const told = this.notices.find(({ notice }) => notice.slug === delivery.notice);
    const trouble = told
      ? await this.send(told, delivery).catch((error: Error) => error.message)
      : "the notice is gone";
    const waitMs = trouble === null ? null : noticeWaitMs(delivery.tries + 1);
    if (trouble !== null && waitMs === null) log.warn({ notice: delivery.notice, trouble }, "a notice was given up");
    await settleDelivery(pool, delivery.id, trouble?.slice(0, 300) ?? null, waitMs);
  }

  /** @returns what went wrong; null when it was taken */
  private async send({ notice, secret }: CompiledNotification, { id, event }: NoticeDelivery): Promise<string | null> {
    const { to } = notice;
    const body = JSON.stringify(event);
    if ("topic" in to) {
      await this.deps.publish(notice, to.topic, Buffer.from(body));
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
