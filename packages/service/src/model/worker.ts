/** The thread that checks descriptions. One question at a time; what is wrong with it goes back as the error that it is. */
import { parentPort, workerData } from "node:worker_threads";
import { type ErrorCode, type ErrorFacts, type Profile, RelayError } from "@bold-relay/core";
import { createPool } from "../store/pool.ts";
import { checkProfileAt, checkSiteChange, type SiteSource } from "./check-site.ts";
import { type Form, readForm } from "./forms.ts";
import { siteVersionChanges } from "./version-changes.ts";

export type Question =
  | {
      readonly id: number;
      readonly ask: "site";
      readonly slug: string;
      readonly source: SiteSource;
      readonly reach: readonly string[] | null;
    }
  | { readonly id: number; readonly ask: "changes"; readonly slug: string; readonly now: number; readonly then: number }
  | { readonly id: number; readonly ask: "form"; readonly form: Form; readonly text: string }
  | { readonly id: number; readonly ask: "profile"; readonly profile: Profile; readonly sites: readonly string[] };

export type Reply = { readonly id: number } & (
  | { readonly result: unknown }
  | { readonly code: ErrorCode; readonly facts: ErrorFacts }
  /** Not of the catalogue: our own mistake, or the database's trouble. */
  | { readonly failure: string }
);

/** What the thread starts with. */
export interface CheckerData {
  readonly databaseUrl: string;
  /** Filters of the service's own topics. */
  readonly reserved: readonly string[];
}

const { databaseUrl, reserved } = workerData as CheckerData;
const pool = createPool(databaseUrl, () => {}, 2);

parentPort?.on("message", (question: Question) => {
  void answer(question).then((reply) => parentPort?.postMessage(reply));
});

async function answer(question: Question): Promise<Reply> {
  const { id } = question;
  try {
    if (question.ask === "site")
      return {
        id,
        result: await checkSiteChange(pool, question.slug, question.source, { reserved, reach: question.reach }),
      };
    if (question.ask === "changes")
      return { id, result: await siteVersionChanges(pool, question.slug, question.now, question.then) };
    if (question.ask === "form") return { id, result: readForm(question.form, question.text) };
    return { id, result: await checkProfileAt(pool, question.profile, question.sites, reserved) };
  } catch (error) {
    if (error instanceof RelayError) return { id, code: error.code, facts: error.facts };
    return { id, failure: error instanceof Error ? (error.stack ?? error.message) : String(error) };
  }
}
