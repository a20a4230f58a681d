/** Finding the inlet that an address names, and reading one that is described in a body, for whoever may. */
import type { IncomingMessage } from "node:http";
import { type InletDescription, RelayError } from "@bold-relay/core";
import { type Admitted, siteCheck } from "../../auth/caller.ts";
import { limits } from "../../config/config.ts";
import type { Form } from "../../description-check/forms.ts";
import type { Room } from "../../inlets/house.ts";
import { Reception, UNCOUNTED } from "../../inlets/reception.ts";
import { isWithin } from "../../view/reach.ts";
import { readText, requireJson } from "../body.ts";
import type { HttpParts } from "../parts.ts";

/** @throws RelayError not-found: of what is not theirs they do not learn that it is there */
export function roomOf({ house }: Pick<HttpParts, "house">, slug: string | undefined, caller: Admitted): Room {
  const room = house.get(slug ?? "");
  if (!room || !isWithin(room.record.inlet.site, caller.sites))
    throw new RelayError("not-found", { what: `The inlet ${slug}` });
  return room;
}

/** An inlet that is described and not saved. @throws RelayError not-permitted */
export function describedReception(
  { desk }: Pick<HttpParts, "desk">,
  inlet: InletDescription,
  caller: Admitted,
): Reception {
  siteCheck(caller, "The inlet").wanted(inlet.site);
  return new Reception(inlet, desk, UNCOUNTED);
}

/** Reads a body that describes an inlet. @throws RelayError like `readText`, wrong-content-type, bad-json or bad-request */
export async function readDescribed<Body extends object>(
  { checker }: Pick<HttpParts, "checker">,
  req: IncomingMessage,
  form: Form,
): Promise<Body> {
  requireJson(req);
  return checker.form<Body>(form, await readText(req, { bytes: limits.inletBytes, withinMs: limits.siteWithinMs }));
}
