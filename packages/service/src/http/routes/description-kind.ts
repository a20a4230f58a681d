/** Which kind of description an address names. */
import { RelayError } from "@bold-relay/core";
import type { Request } from "express";
import { DESCRIPTION_KINDS } from "../../store/description-versions.ts";

/** @throws RelayError not-found */
export function namedIn({ params: { kind: named = "", slug = "" } }: Request<Record<string, string>>) {
  const kind = DESCRIPTION_KINDS.find((one) => one === named);
  if (kind === undefined)
    throw new RelayError("not-found", {
      what: `A kind of description called ${named}; the kinds are ${DESCRIPTION_KINDS.join(", ")}, and it`,
    });
  return { kind, slug };
}
