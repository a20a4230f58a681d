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

const WITHIN_MS = 15_000;
const IDLE_MS = 15_000;
/** Questions that wait; each may hold 10 MB. */
const MOST_WAITING = 12;
/** Of one member: somebody else's turn comes next all the same. */
const MOST_OF_EACH = 4;
const MOST_MEMORY_MB = 768;
/** Characters of JSON that take a few ms at most. */
const SMALL = 8_192;

const FILE = import.meta.url.endsWith(".ts") ? "./worker.ts" : "./worker.js";

/** Whose question it is. */
export interface CheckCaller {
  readonly memberId: number;
  /** When nobody waits for the answer any more: the check ends then. */
  readonly gone?: AbortSignal | undefined;
}

interface Waiting {
  readonly asked: Asked;
  readonly gone: AbortSignal | undefined;
  readonly settle: (answer: Promise<unknown>) => void;
}

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
  /** By member, in rotation: whoever was served last is the last. */
  private readonly waiting = new Map<number, Waiting[]>();
  private isBusy = false;
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
  site(
    slug: string,
    source: SiteSource,
    caller: CheckCaller & { readonly sites: readonly string[] | null },
  ): Promise<CheckedSite> {
    return this.inTurn({ ask: "site", slug, source, reach: caller.sites }, caller) as Promise<CheckedSite>;
  }

  /**
   * What describes an inlet. A small one is read at once: somebody may be typing it.
   *
   * @throws RelayError bad-json, bad-request or service-busy
   */
  async form<Body extends object>(form: Form, text: string, caller: CheckCaller): Promise<Body> {
    const read = text.length <= SMALL ? readForm(form, text) : await this.inTurn({ ask: "form", form, text }, caller);
    return read as Body;
  }

  /** See `siteVersionChanges`. @throws RelayError service-busy */
  changes(slug: string, now: number, then: number, caller: CheckCaller): Promise<AuditChange[]> {
    return this.inTurn({ ask: "changes", slug, now, then }, caller) as Promise<AuditChange[]>;
  }

  /** @throws RelayError service-busy */
  profile(profile: Profile, sites: readonly string[], caller: CheckCaller): Promise<CheckedProfile> {
    return this.inTurn({ ask: "profile", profile, sites }, caller) as Promise<CheckedProfile>;
  }

  async stop(): Promise<void> {
    if (this.idle) clearTimeout(this.idle);
    const { worker } = this;
    this.worker = null;
    await worker?.terminate();
  }

  private inTurn(asked: Asked, { memberId, gone }: CheckCaller): Promise<unknown> {
    const own = this.waiting.get(memberId) ?? [];
    const all = [...this.waiting.values()].reduce((count, { length }) => count + length, 0);
    // Whoever has none waiting finds room where others have taken all.
    const room = own.length === 0 ? MOST_WAITING * 2 : MOST_WAITING;
    if (own.length >= MOST_OF_EACH || all >= room)
      return Promise.reject(new RelayError("service-busy", { why: "Too many descriptions are being checked" }));
    const answer = new Promise<unknown>((resolve) => own.push({ asked, gone, settle: resolve }));
    this.waiting.set(memberId, own);
    void this.serveAll();
    return answer;
  }

  /** One at a time, a member's next one after everybody else's. */
  private async serveAll(): Promise<void> {
    if (this.isBusy) return;
    this.isBusy = true;
    for (let next = this.takeNext(); next !== null; next = this.takeNext()) {
      const answer = next.gone?.aborted ? Promise.reject(nobodyWaits()) : this.ask(next.asked, next.gone);
      next.settle(answer);
      await answer.catch(() => {});
    }
    this.isBusy = false;
  }

  private takeNext(): Waiting | null {
    const [first] = this.waiting;
    if (!first) return null;
    const [memberId, own] = first;
    this.waiting.delete(memberId);
    const next = own.shift() ?? null;
    if (own.length > 0) this.waiting.set(memberId, own);
    return next;
  }

  private async ask(question: Asked, gone: AbortSignal | undefined): Promise<unknown> {
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
      const onGone = () => fail("nobody waits for it any more");
      function finish(one: Reply): void {
        clearTimeout(timer);
        gone?.removeEventListener("abort", onGone);
        worker.off("message", onMessage).off("error", onError).off("exit", onExit);
        resolve(one);
      }
      worker.on("message", onMessage).on("error", onError).on("exit", onExit);
      gone?.addEventListener("abort", onGone);
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

function nobodyWaits(): RelayError {
  return new RelayError("service-busy", { why: "Nobody waits for this check any more" });
}
