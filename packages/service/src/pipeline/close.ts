/** A person ends what is open of a request: above all an urgent command that would be tried until it is proven. */
import { RelayError, type RequestId } from "@bold-relay/core";
import { type Answers, isThere } from "./answers.ts";
import type { LaneBook } from "./lane-book.ts";
import type { RequestBook } from "./request-book.ts";

/** How long the ends may take to become durable before the person is told, ms. */
const DURABLE_WITHIN_MS = 5_000;

/**
 * Resolves once the ends are durable.
 *
 * @throws RelayError not-open when nothing of the request is open
 */
export type Close = (request: RequestId, by: string, reason: string) => Promise<void>;

export function createClose(book: RequestBook, lanes: LaneBook, answers: Answers): Close {
  return async (id, by, reason) => {
    const request = book.get(id);
    const open = request ? request.commands.filter((command) => command.end === null) : [];
    if (!request || open.length === 0) throw new RelayError("not-open");
    const durable = answers.wait(request, null, DURABLE_WITHIN_MS);
    for (const { channel, id: command } of open) {
      lanes.dispatch(channel, { type: "close", id: command, note: `${by} (${reason})` });
    }
    await durable;
    if (!isThere(request, null)) throw new RelayError("journal-unavailable", { request: id });
  };
}
