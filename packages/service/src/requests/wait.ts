/** Asking as every inlet does it: accept, wait for as long as the asker lets it, answer with what is known then. */
import type { BriefView, RequestView } from "@bold-relay/api";
import {
  type Asker,
  hasReached,
  type Intent,
  outcomeOf,
  RelayError,
  type RequestId,
  type Stage,
  type TargetStage,
} from "@bold-relay/core";
import { type Answers, isThere } from "../delivery/answers.ts";
import type { Accept } from "../requests/submit.ts";
import type { Board } from "../state/board.ts";
import { type OpenRequest, type OpenRequests, recordsOf } from "../state/open-requests.ts";
import { requestView } from "../views/request-view.ts";
import type { RequestQueries } from "./queries.ts";

export interface AskDeps {
  readonly accept: Accept;
  readonly answers: Answers;
  readonly openRequests: OpenRequests;
  readonly board: Board;
  readonly queries: RequestQueries;
}

/** Accepts an intent and waits up to `waitMs` for its outcome. Rejects with the refusal. */
export type Ask = (intent: Intent, asker: Asker, waitMs: number) => Promise<RequestView>;

/** The same for who only wants to know how it went; `there`: it got where the asker wanted to know of. */
export type AskBriefly = (
  intent: Intent,
  asker: Asker,
  waitMs: number,
) => Promise<{ readonly brief: BriefView; readonly there: boolean }>;

/** Waits up to `waitMs` for the outcome of a request that was accepted before. */
export type Follow = (request: string, waitMs: number) => Promise<RequestView>;

export function createAsk(deps: AskDeps): { ask: Ask; askBriefly: AskBriefly; follow: Follow } {
  const { accept, answers, openRequests, board, queries } = deps;
  const ask: Ask = async (intent, asker, waitMs) => {
    const accepted = await accept(intent, asker);
    if ("original" in accepted) return answerAgain(accepted.original, intent, waitMs);
    await waitFor(accepted, intent, waitMs);
    return requestView(accepted.record, recordsOf(accepted), board);
  };

  const askBriefly: AskBriefly = async (intent, asker, waitMs) => {
    const accepted = await accept(intent, asker);
    if ("original" in accepted) {
      const { id, outcome, commands } = await answerAgain(accepted.original, intent, waitMs);
      return { brief: { id, outcome }, there: commands.every(({ stage }) => isAt(stage, intent.until)) };
    }
    await waitFor(accepted, intent, waitMs);
    const { record, commands } = accepted;
    const outcome = record.outcome ?? outcomeOf(commands.map(({ end }) => end));
    return { brief: { id: record.id, outcome }, there: commands.every(({ stage }) => isAt(stage, intent.until)) };
  };

  async function waitFor(accepted: OpenRequest, { until }: Intent, waitMs: number): Promise<void> {
    if (waitMs > 0 && !isThere(accepted, until)) await answers.wait(accepted, until, waitMs);
  }

  const follow: Follow = async (id, waitMs) => {
    const open = openRequests.get(id);
    if (!open) return queries.view(id as RequestId, { memberId: null, sites: null });
    if (!isThere(open, null)) await answers.wait(open, null, waitMs);
    return requestView(open.record, recordsOf(open), board);
  };
  return { ask, askBriefly, follow };

  /** A repeated call is answered with what has become of the first one by now. */
  async function answerAgain(original: RequestId, { until }: Intent, waitMs: number): Promise<RequestView> {
    const open = openRequests.get(original);
    if (open && waitMs > 0 && !isThere(open, until)) await answers.wait(open, until, waitMs);
    const request = await queries.view(original, { memberId: null, sites: null });
    if (request.refusal) throw new RelayError(request.refusal.code, await queries.refusalFacts(original));
    return request;
  }
}

function isAt(stage: Stage, until: TargetStage | null): boolean {
  return until !== null && hasReached(stage, until);
}
