/** Which version a change was made from: two editors must not overwrite each other. */
import type { IncomingMessage } from "node:http";
import { RelayError } from "@bold-relay/core";

/**
 * The version that a change was made from (RFC 9110, 13.1): "12", * for whatever it is, `If-None-Match: *` for none.
 *
 * @throws RelayError bad-request when neither is sent: two editors would overwrite each other
 */
export function versionOf(req: IncomingMessage): number | null {
  const version = askedVersion(req);
  if (version !== undefined) return version;
  throw new RelayError("bad-request", {
    why: 'Send If-Match with the version that you changed, like "12", or * for any',
  });
}

/**
 * The same where the header is optional: without it, whatever version there is.
 *
 * @throws RelayError bad-request when it is sent and is no version
 */
export function versionIfSent(req: IncomingMessage): number | null {
  const { "if-match": match, "if-none-match": noneMatch } = req.headers;
  return match === undefined && noneMatch === undefined ? null : versionOf(req);
}

function askedVersion({ headers }: IncomingMessage): number | null | undefined {
  const { "if-match": match, "if-none-match": noneMatch } = headers;
  if (noneMatch === "*") return 0;
  if (match === "*") return null;
  const version = /^"(\d{1,9})"$/.exec(match ?? "")?.[1];
  return version === undefined ? undefined : Number(version);
}
