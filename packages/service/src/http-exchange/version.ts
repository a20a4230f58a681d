/** Which version a change was made from: two editors must not overwrite each other. */
import type { IncomingMessage } from "node:http";
import { RelayError } from "@bold-relay/core";

/**
 * The version that a change was made from (RFC 9110, 13.1): "12", * for whatever it is, `If-None-Match: *` for none.
 *
 * @throws RelayError bad-request when neither is sent: two editors would overwrite each other
 */
export function versionOf(req: IncomingMessage): number | null {
  const { "if-match": match, "if-none-match": noneMatch } = req.headers;
  if (noneMatch === "*") return 0;
  if (match === "*") return null;
  const version = /^"(\d{1,9})"$/.exec(match ?? "")?.[1];
  if (version !== undefined) return Number(version);
  throw new RelayError("bad-request", {
    why: 'Send If-Match with the version that you changed, like "12", or * for any',
  });
}
