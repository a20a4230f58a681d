/**
 * Asks the thread that checks descriptions. It starts with the first question and ends when there was none for a while, for what it has
 * read takes memory; one that takes too long is stopped with its thread, and the next question starts another.
 */
import { Worker } from "node:worker_threads";
import { type AuditChange, type Finding, type Profile, RelayError } from "@bold-relay/core";
import type { Log } from "../platform/log.ts";
import type { CheckedSite, SiteSource } from "./check-site.ts";
import { type Form, readForm } from "./forms.ts";
import type { CheckerData, Question, Reply } from "./worker.ts";

const WITHIN_MS = 30_000;
const IDLE_MS = 15_000;
/** Questions that wait; each may hold 10 MB. */
const MOST_WAITING = 8;
const MOST_MEMORY_MB = 768;
/** Characters of JSON that take a few ms at most. */
const SMALL = 8_192;

const FILE = import.meta.url.endsWith(".ts") ? "./worker.ts" : "./worker.js";

/** What a profile would be at the sites that use it. */
export interface CheckedProfile {
  readonly findings: Finding[];
  /** What has topics, as they were compared with; null: no device uses it. */
  readonly topics: string | null;
}

type Asked = Question extends infer One ? (One extends Question ? Omit<One, "id"> : never) : never;

export class DescriptionChecker {
  private readonly databaseUrl: string;
  private readonly reserved: readonly string[];
  private readonly log: Log;
  private worker: Worker | null = null;
  private idle: NodeJS.Timeout | null = null;
  private turn: Promise<unknown> = Promise.resolve();
  private waiting = 0;
  private asked = 0;

  /** @param reserved filters of the service's own topics */
  constructor(databaseUrl: string, reserved: readonly string[], log: Log) {
    this.databaseUrl = databaseUrl;
    this.reserved = reserved;
    this.log = log;
  }

  /**
   * See `checkSiteChange`.
   *
   * @throws RelayError service-busy, and what that throws
   */
  site(slug: string, source: SiteSource, reach: readonly string[] | null): Promise<CheckedSite> {
    return this.inTurn({ ask: "site", slug, source, reach }) as Promise<CheckedSite>;
  }

  /**
   * What describes an inlet. A small one is read at once: somebody may be typing it.
   *
   * @throws RelayError bad-json, bad-request or service-busy
   */
  async form<Body extends object>(form: Form, text: string): Promise<Body> {
    const read = text.length <= SMALL ? readForm(form, text) : await this.inTurn({ ask: "form", form, text });
    return read as Body;
  }

  /** See `siteVersionChanges`. @throws RelayError service-busy */
  changes(slug: string, now: number, then: number): Promise<AuditChange[]> {
    return this.inTurn({ ask: "changes", slug, now, then }) as Promise<AuditChange[]>;
  }

  /** @throws RelayError service-busy */
  profile(profile: Profile, sites: readonly string[]): Promise<CheckedProfile> {
    return this.inTurn({ ask: "profile", profile, sites }) as Promise<CheckedProfile>;
  }

  async stop(): Promise<void> {
    if (this.idle) clearTimeout(this.idle);
    const { worker } = this;
    this.worker = null;
    await worker?.terminate();
  }

  private inTurn(question: Asked): Promise<unknown> {
    if (this.waiting >= MOST_WAITING)
      return Promise.reject(new RelayError("service-busy", { why: "Too many descriptions are being checked" }));
    this.waiting += 1;
    const mine = this.turn.then(() => this.ask(question));
    this.turn = mine.catch(() => {});
    return mine.finally(() => {
      this.waiting -= 1;
    });
  }

  private async ask(question: Asked): Promise<unknown> {
    if (this.idle) clearTimeout(this.idle);
    const worker = this.opened();
    this.asked += 1;
    const id = this.asked;
    const reply = await new Promise<Reply>((resolve) => {
      const fail = (failure: string) => {
        this.worker = null;
        void worker.terminate();
        finish({ id, failure });
      };
      const timer = setTimeout(() => fail(`it took longer than ${WITHIN_MS / 1000} s`), WITHIN_MS);
      const onMessage = (one: Reply) => one.id === id && finish(one);
      const onError = (error: Error) => fail(error.message);
      const onExit = () => fail("the thread has ended");
      function finish(one: Reply): void {
        clearTimeout(timer);
        worker.off("message", onMessage).off("error", onError).off("exit", onExit);
        resolve(one);
      }
      worker.on("message", onMessage).on("error", onError).on("exit", onExit);
      worker.postMessage({ ...question, id });
    });
    this.idle = setTimeout(() => void this.stop(), IDLE_MS).unref();
    if ("code" in reply) throw new RelayError(reply.code, reply.facts);
    if ("failure" in reply) {
      const cause = new Error(reply.failure);
      this.log.warn({ err: cause }, "a description could not be checked");
      throw new RelayError("service-busy", { why: "The description could not be checked just now" }, { cause });
    }
    return reply.result;
  }

  private opened(): Worker {
    if (this.worker) return this.worker;
    const worker = new Worker(new URL(FILE, import.meta.url), {
      workerData: { databaseUrl: this.databaseUrl, reserved: this.reserved } satisfies CheckerData,
      // Whatever this process was started with is not meant for it.
      execArgv: [],
      resourceLimits: { maxOldGenerationSizeMb: MOST_MEMORY_MB },
    });
    worker.unref();
    // While nobody asks: the next question starts another.
    worker.on("error", () => {});
    worker.once("exit", () => {
      if (this.worker === worker) this.worker = null;
    });
    this.worker = worker;
    return worker;
  }
}
