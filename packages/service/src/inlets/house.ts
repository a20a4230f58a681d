/** Every inlet as it runs: read from the journal, taken on while it runs, each kind with its own way in. */
import { type InletDescription, type InletKind, type TopicListener, topicListener } from "@bold-relay/core";
import { unsealed } from "../auth/seal.ts";
import type { Log } from "../log.ts";
import { call } from "./call.ts";
import { chat } from "./chat.ts";
import { hook } from "./hook.ts";
import type { Calls, HttpKind, Inlet, OwnKind } from "./inlet.ts";
import type { InletCounter } from "./inlet-counter.ts";
import { createKeypad } from "./keypad.ts";
import { LineInlet, type LineParts } from "./line.ts";
import { Reception, type ReceptionDesk } from "./reception.ts";
import { SheetInlet, sheetStates } from "./sheet.ts";
import { TopicInlet, type TopicParts } from "./topic.ts";
import { web } from "./web.ts";

/** An inlet as the journal has it. */
export interface InletRecord {
  readonly id: number;
  readonly inlet: InletDescription;
  readonly version: number;
  readonly secret: Buffer | null;
  readonly keys: number;
}

export interface HouseParts {
  readonly read: () => Promise<InletRecord[]>;
  readonly desk: ReceptionDesk;
  readonly states: (site: string | null) => ReturnType<Inlet["states"]>;
  readonly secretsKey: Buffer | undefined;
  readonly calls: Calls;
  readonly topic: Omit<TopicParts, "log">;
  readonly mayListen: LineParts["mayListen"];
  /** The id of a key of this inlet; null: it is none. */
  readonly keyOf: (key: string, slug: string) => Promise<number | null>;
  /** Inlets or their keys have changed. */
  readonly onChange: () => void;
  readonly log: Log;
  readonly counter: InletCounter;
}

export interface Room {
  readonly record: InletRecord;
  readonly inlet: Inlet;
  readonly reception: Reception;
  /** null where it comes in over HTTP. */
  readonly own: OwnKind | null;
}

/** An address that nobody knows makes it read again, but not more often than this. */
const READ_AGAIN_MS = 1_000;

export class InletHouse {
  private readonly parts: HouseParts;
  private readonly http: Partial<Record<InletKind, HttpKind>> = {
    web,
    hook,
    call,
    chat,
    keypad: createKeypad(),
    sheet: sheetStates,
  };
  private rooms = new Map<string, Room>();
  private listening: readonly TopicListener[] = [];
  private turn: Promise<unknown> = Promise.resolve();
  private readAt = Number.NEGATIVE_INFINITY;
  private stopped = false;

  constructor(parts: HouseParts) {
    this.parts = parts;
  }

  /** Seals the secrets of signatures; undefined: there is none, so no secret can be kept. */
  get secretsKey(): Buffer | undefined {
    return this.parts.secretsKey;
  }

  /** What came in, and what became of it. */
  get counter(): InletCounter {
    return this.parts.counter;
  }

  get all(): readonly Room[] {
    return [...this.rooms.values()];
  }

  /** Where inlets listen at the broker, paused ones too. */
  get listeners(): readonly TopicListener[] {
    return this.listening;
  }

  get(slug: string): Room | null {
    return this.rooms.get(slug) ?? null;
  }

  /** One that another program has made since is found on its first use. */
  async find(slug: string): Promise<Room | null> {
    const known = this.rooms.get(slug);
    if (known || performance.now() - this.readAt < READ_AGAIN_MS) return known ?? null;
    await this.refresh();
    return this.rooms.get(slug) ?? null;
  }

  /** The id of a key of an inlet; null: it is none. */
  keyIdOf(key: string, slug: string): Promise<number | null> {
    return this.parts.keyOf(key, slug);
  }

  /** How this kind comes in over HTTP; null where it does not. */
  kindOf({ description }: Inlet): HttpKind | null {
    return this.http[description.kind] ?? null;
  }

  /** Takes on what the journal has: what is unchanged goes on untouched. */
  refresh(): Promise<void> {
    const mine = this.turn.then(() => this.takeOn());
    this.turn = mine.catch(() => {});
    return mine;
  }

  async stop(): Promise<void> {
    this.stopped = true;
    await this.turn;
    await Promise.all(this.all.flatMap(({ own }) => own?.stop() ?? []));
  }

  private async takeOn(): Promise<void> {
    this.parts.onChange();
    const records = await this.parts.read();
    this.readAt = performance.now();
    if (this.stopped) return;
    const before = this.rooms;
    const rooms = new Map<string, Room>();
    const leaving: Room[] = [];
    for (const record of records) {
      const known = before.get(record.inlet.slug);
      const same = known?.record.version === record.version && known.record.id === record.id;
      if (known && same && sameSecret(known.record, record)) rooms.set(record.inlet.slug, { ...known, record });
      else if (known) leaving.push(known);
    }
    for (const [slug, room] of before) if (!records.some(({ inlet }) => inlet.slug === slug)) leaving.push(room);
    // Before the new ones begin: they may want the same port, or have the same name at the broker.
    await Promise.all(leaving.flatMap(({ own }) => own?.stop() ?? []));
    for (const record of records) if (!rooms.has(record.inlet.slug)) rooms.set(record.inlet.slug, this.open(record));
    this.rooms = rooms;
    this.listening = records.flatMap(({ inlet }) => topicListener(inlet));
  }

  private open(record: InletRecord): Room {
    const { inlet: description } = record;
    const { desk, states, log, counter } = this.parts;
    const { slug } = description;
    const reception = new Reception(description, desk, {
      arrived: () => counter.arrived(slug),
      ended: (end) => counter.ended(slug, end),
    });
    const inlet: Inlet = {
      description,
      admit: () => reception.admit(),
      noteArrival: () => reception.noteArrival(),
      noteEnd: (outcome) => reception.noteEnd(outcome),
      hear: (arrival, from) => reception.hear(arrival, from),
      refuse: (arrival, from, refusal) => reception.refuse(arrival, from, refusal),
      told: ({ made }, told) => {
        for (const request of made) desk.told(request, told);
      },
      states: () => states(description.site),
      secret: this.secretOf(record),
      desk,
    };
    const own = description.paused ? null : this.ownKind(inlet);
    own?.start();
    log.info({ inlet: description.slug, kind: description.kind }, "an inlet is open");
    return { record, inlet, reception, own };
  }

  private ownKind(inlet: Inlet): OwnKind | null {
    const { slug, kind } = inlet.description;
    const { calls, log, topic, keyOf, mayListen } = this.parts;
    const line: LineParts = { keyOf: (key) => keyOf(key, slug), mayListen, log };
    if (kind === "line") return new LineInlet(inlet, line);
    if (kind === "topic") return new TopicInlet(inlet, { ...topic, clientId: `${topic.clientId}-${slug}`, log });
    return kind === "sheet" ? new SheetInlet(inlet, calls, log) : null;
  }

  private secretOf({ secret, inlet }: InletRecord): string | null {
    if (secret === null) return null;
    const read = unsealed(secret, this.parts.secretsKey);
    if (read === null)
      this.parts.log.warn(
        { inlet: inlet.slug },
        "its secret cannot be read with BOLD_RELAY_SECRETS_KEY: give it a new one",
      );
    return read;
  }
}

function sameSecret(one: InletRecord, other: InletRecord): boolean {
  return (
    one.secret === other.secret || (one.secret !== null && other.secret !== null && one.secret.equals(other.secret))
  );
}
