/** Where a request of the log is on the map. */
import type { RequesterKind } from "../team/requester.ts";

interface LoggedRequest {
  readonly requester: RequesterKind;
  /** The name that the requester gave. */
  readonly asker: string;
  readonly inlet: string;
  readonly said: { readonly route: number | null } | null;
}

/**
 * The id of the element that caught a request: a member, a rule, a route or an inlet. Routes are counted as they stood then.
 *
 * @example requestElement({ requester: "inlet", asker: "ana", inlet: "hall-chat", said: { route: 2 } }) // → "route:hall-chat/2"
 */
export function requestElement({ requester, asker, inlet, said }: LoggedRequest): string {
  if (requester === "member") return `member:${asker}`;
  if (requester === "rule") return `rule:${inlet}`;
  return said?.route ? `route:${inlet}/${said.route}` : `inlet:${inlet}`;
}
