/** Asking as every inlet does it: accept, wait for as long as the asker lets it, answer with what is known then. */
import type { RequestView } from "@bold-relay/api";
import { type Asker, type Intent, RelayError, type RequestId } from "@bold-relay/core";
import type { Accept } from "../pipeline/accept.ts";
import { type Answers, isThere } from "../pipeline/answers.ts";
import type { Board } from "../pipeline/board.ts";
import { type RequestBook, recordsOf } from "../pipeline/request-book.ts";
import type { Ledger } from "./ledger.ts";
import { requestView } from "./request-view.ts";

export interface AskParts {
  readonly accept: Accept;
  readonly answers: Answers;
  readonly book: RequestBook;
  readonly board: Board;
  readonly ledger: Ledger;
}

/** Accepts an intent and waits up to `waitMs` for its outcome. Rejects with the refusal. */
export type Ask = (intent: Intent, asker: Asker, waitMs: number) => Promise<RequestView>;

/** Waits up to `waitMs` for the outcome of a request that was accepted before. */
export type Follow = (request: string, waitMs: number) => Promise<RequestView>;

export function createAsk({ accept, answers, book, board, ledger }: AskParts): { ask: Ask; follow: Follow } {
  const ask: Ask = async (intent, asker, waitMs) => {
    const accepted = await accept(intent, asker);
    if ("original" in accepted) return answerAgain(accepted.original, intent, asker, waitMs);
    const { record } = accepted;
    if (waitMs > 0 && !isThere(accepted, intent.until)) await answers.wait(accepted, intent.until, waitMs);
    return requestView(record, recordsOf(accepted), board);
  };

  const follow: Follow = async (id, waitMs) => {
    const open = book.get(id);
    if (!open) return ledger.view(id as RequestId, { name: "", sites: null });
    if (!isThere(open, null)) await answers.wait(open, null, waitMs);
    return requestView(open.record, recordsOf(open), board);
  };
  return { ask, follow };

  /** A repeated call is answered with what has become of the first one by now. */
  async function answerAgain(
    original: RequestId,
    { until }: Intent,
    asker: Asker,
    waitMs: number,
  ): Promise<RequestView> {
    const open = book.get(original);
    if (open && waitMs > 0 && !isThere(open, until)) await answers.wait(open, until, waitMs);
    const request = await ledger.view(original, { name: asker.name, sites: null });
    if (request.refusal) throw new RelayError(request.refusal.code, await ledger.refusalFacts(original));
    return request;
  }
}
