/** A person ends what is open of a request: above all an urgent command that would be tried until it is proven. */
import { RelayError, type RequestId } from "@bold-relay/core";
import { type Answers, isThere } from "../delivery/answers.ts";
import type { LaneRunner } from "../delivery/lane-runner.ts";
import type { OpenRequests } from "../state/open-requests.ts";

/** How long the ends may take to become durable before the person is told, ms. */
const DURABLE_WITHIN_MS = 5_000;

/**
 * Resolves once the ends are durable.
 *
 * @throws RelayError not-open when nothing of the request is open
 */
export type Close = (request: RequestId, by: string, reason: string) => Promise<void>;

export function createClose(openRequests: OpenRequests, lanes: Pick<LaneRunner, "dispatch">, answers: Answers): Close {
  return async (id, by, reason) => {
    const request = openRequests.get(id);
    const open = request ? request.commands.filter((command) => command.end === null) : [];
    if (!request || open.length === 0) throw new RelayError("not-open");
    const durable = answers.wait(request, null, DURABLE_WITHIN_MS);
    for (const { channel, id: command } of open) {
      lanes.dispatch(channel, { type: "close", id: command, note: `${by} (${reason})` });
    }
    await durable;
    if (!isThere(request, null)) throw new RelayError("database-unavailable", { request: id });
  };
}
