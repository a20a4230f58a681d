/** Every inlet as it runs: read from the journal, taken on while it runs, each kind with its own way in. */
import {
  type Arrival,
  caughtTwice,
  type InletDescription,
  type InletKind,
  RelayError,
  type TopicListener,
  topicListener,
} from "@bold-relay/core";
import { unsealed } from "../auth/seal.ts";
import { InletHandler, type RequestService } from "./handler.ts";
import type { HttpKind, Inlet, InletResult, OwnKind } from "./inlet.ts";
import type { InletCounter } from "./inlet-counter.ts";
import type { OwnKindDeps } from "./kind.ts";
import { inletWays } from "./kinds/index.ts";

/** An inlet as the journal has it. */
export interface InletRecord {
  readonly id: number;
  readonly inlet: InletDescription;
  readonly version: number;
  readonly secret: Buffer | null;
  readonly keys: number;
}

export interface InletRegistryDeps extends OwnKindDeps {
  readonly read: () => Promise<InletRecord[]>;
  readonly requests: RequestService;
  readonly states: (site: string | null) => ReturnType<Inlet["states"]>;
  readonly secretsKey: Buffer | undefined;
  /** Whether one that holds a connection of its own holds it at this instance. */
  readonly isOwner: (inlet: InletDescription) => boolean;
  /** Inlets or their keys have changed. */
  readonly onChange: () => void;
  readonly counter: InletCounter;
}

export interface InletInstance {
  readonly record: InletRecord;
  readonly inlet: Inlet;
  readonly handler: InletHandler;
  /** null where it comes in over HTTP, or at another instance. */
  readonly own: OwnKind | null;
  /** Whether it is this instance that holds its connection. */
  readonly isOwned: boolean;
}

/** An arrival as somebody sees it who listens. */
export interface ListenedArrival {
  readonly arrival: Arrival;
  /** As `InletResult` has it; the code of the error where it was not taken; `no-route` of what the inlet does not take. */
  readonly outcome: string;
  /** The requests that it made. */
  readonly made: readonly string[];
}

/** An address that nobody knows makes it read again, but not more often than this. */
const READ_AGAIN_MS = 1_000;

export class InletRegistry {
  private readonly deps: InletRegistryDeps;
  private readonly http = new Map<InletKind, HttpKind>();
  private instances = new Map<string, InletInstance>();
  private listening: readonly TopicListener[] = [];
  private shared: ReadonlyMap<string, string> = new Map();
  private readonly watchers = new Map<string, Set<(arrival: ListenedArrival) => void>>();
  private turn: Promise<unknown> = Promise.resolve();
  private readAt = Number.NEGATIVE_INFINITY;
  private stopped = false;

  constructor(deps: InletRegistryDeps) {
    this.deps = deps;
    for (const [kind, { http }] of Object.entries(inletWays)) if (http) this.http.set(kind as InletKind, http());
  }

  /** Seals the secrets of signatures; undefined: there is none, so no secret can be kept. */
  get secretsKey(): Buffer | undefined {
    return this.deps.secretsKey;
  }

  /** What came in, and what became of it. */
  get counter(): InletCounter {
    return this.deps.counter;
  }

  get all(): readonly InletInstance[] {
    return [...this.instances.values()];
  }

  /** Where inlets listen at the broker, paused ones too. */
  get listeners(): readonly TopicListener[] {
    return this.listening;
  }

  /** Inlets that act on messages of another one, by identifier: on which, in words. */
  get caughtTwice(): ReadonlyMap<string, string> {
    return this.shared;
  }

  get(slug: string): InletInstance | null {
    return this.instances.get(slug) ?? null;
  }

  /** One that another program has made since is found on its first use. */
  async find(slug: string): Promise<InletInstance | null> {
    const known = this.instances.get(slug);
    if (known || performance.now() - this.readAt < READ_AGAIN_MS) return known ?? null;
    await this.refresh();
    return this.instances.get(slug) ?? null;
  }

  /** Tells what arrives at an inlet, also after it was changed. @returns ends it */
  watch(slug: string, watcher: (arrival: ListenedArrival) => void): () => void {
    const watching = this.watchers.get(slug) ?? new Set();
    this.watchers.set(slug, watching.add(watcher));
    return () => {
      watching.delete(watcher);
      if (watching.size === 0 && this.watchers.get(slug) === watching) this.watchers.delete(slug);
    };
  }

  /** The id of a key of an inlet; null: it is none. */
  keyIdOf(key: string, slug: string): Promise<number | null> {
    return this.deps.keyOf(key, slug);
  }

  /** Whether any instance may answer what comes to an inlet over HTTP. */
  isAnywhere({ record }: InletInstance): boolean {
    return inletWays[record.inlet.kind].isAnywhere === true;
  }

  /** How this kind comes in over HTTP; null where it does not. */
  kindOf({ description }: Inlet): HttpKind | null {
    return this.http.get(description.kind) ?? null;
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
    this.deps.onChange();
    const records = await this.deps.read();
    this.readAt = performance.now();
    if (this.stopped) return;
    const before = this.instances;
    const instances = new Map<string, InletInstance>();
    const leaving: InletInstance[] = [];
    for (const record of records) {
      const known = before.get(record.inlet.slug);
      const same = known?.record.version === record.version && known.record.id === record.id;
      const isOwned = this.deps.isOwner(record.inlet);
      if (known && same && known.isOwned === isOwned && sameSecret(known.record, record))
        instances.set(record.inlet.slug, { ...known, record });
      else if (known) leaving.push(known);
    }
    for (const [slug, instance] of before)
      if (!records.some(({ inlet }) => inlet.slug === slug)) leaving.push(instance);
    // Before the new ones begin: they may want the same port, or have the same name at the broker.
    await Promise.all(leaving.flatMap(({ own }) => own?.stop() ?? []));
    for (const record of records)
      if (!instances.has(record.inlet.slug)) instances.set(record.inlet.slug, this.open(record));
    this.instances = instances;
    this.listening = records.flatMap(({ inlet }) => topicListener(inlet));
    this.shared = sharedMessages(records.filter(({ inlet }) => !inlet.paused).map(({ inlet }) => inlet));
  }

  private open(record: InletRecord): InletInstance {
    const { inlet: description } = record;
    const { requests, states, log, counter } = this.deps;
    const { slug } = description;
    const handler = new InletHandler(description, requests, {
      arrived: () => counter.arrived(slug),
      ended: (end) => counter.ended(slug, end),
    });
    const inlet: Inlet = {
      description,
      admit: () => handler.admit(),
      noteArrival: () => handler.noteArrival(),
      noteEnd: (outcome) => handler.noteEnd(outcome),
      hear: (arrival, origin) => this.listened(slug, arrival, handler.hear(arrival, origin)),
      refuse: (arrival, origin, refusal) => handler.refuse(arrival, origin, refusal),
      told: ({ made }, receipt) => {
        for (const request of made) requests.told(request, receipt);
      },
      states: () => states(description.site),
      secret: this.secretOf(record),
      requests,
    };
    const isOwned = this.deps.isOwner(description);
    const mayOpen = isOwned && !description.paused;
    const own = mayOpen ? (inletWays[description.kind].open?.(inlet, this.deps) ?? null) : null;
    own?.start();
    log.info({ inlet: description.slug, kind: description.kind }, "an inlet is open");
    return { record, inlet, handler, own, isOwned };
  }

  private listened(slug: string, arrival: Arrival, heard: Promise<InletResult>): Promise<InletResult> {
    if (!this.watchers.has(slug)) return heard;
    const tell = (outcome: string, made: readonly string[]) => {
      for (const watcher of this.watchers.get(slug) ?? []) watcher({ arrival, outcome, made });
    };
    return heard.then(
      (result) => {
        tell(result.outcome, result.made);
        return result;
      },
      (error: unknown) => {
        tell(error instanceof RelayError ? error.code : "failed", []);
        throw error;
      },
    );
  }

  private secretOf({ secret, inlet }: InletRecord): string | null {
    if (secret === null) return null;
    const read = unsealed(secret, this.deps.secretsKey);
    if (read === null)
      this.deps.log.warn(
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

function sharedMessages(inlets: readonly InletDescription[]): Map<string, string> {
  return new Map(
    caughtTwice(inlets).map(({ route, other }) => [
      route.inlet.slug,
      `Route ${route.place} catches the same as route ${other.place} of ${other.inlet.name} (${other.filter}).`,
    ]),
  );
}
