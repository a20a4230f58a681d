/** Finding the inlet that an address names, and reading one that is described in a body, for whoever may. */
import type { IncomingMessage } from "node:http";
import { type InletDescription, RelayError } from "@bold-relay/core";
import { type Admitted, siteCheck } from "../../auth/caller.ts";
import { readText, requireJson } from "../../http-exchange/body.ts";
import { InletHandler, UNCOUNTED } from "../../inlets/handler.ts";
import type { InletInstance } from "../../inlets/registry.ts";
import type { CheckCaller } from "../../model/description-checker.ts";
import type { Form } from "../../model/forms.ts";
import { limits } from "../../platform/config/limits.ts";
import { isWithin } from "../../views/reach.ts";
import type { HttpDeps } from "../deps.ts";

/** @throws RelayError not-found: of what is not theirs they do not learn that it is there */
export function instanceOf(
  { inlets }: Pick<HttpDeps, "inlets">,
  slug: string | undefined,
  caller: Admitted,
): InletInstance {
  const room = inlets.get(slug ?? "");
  if (!room || !isWithin(room.record.inlet.site, caller.sites))
    throw new RelayError("not-found", { what: `The inlet ${slug}` });
  return room;
}

/** An inlet that is described and not saved. @throws RelayError not-permitted */
export function describedHandler(
  { requests }: Pick<HttpDeps, "requests">,
  inlet: InletDescription,
  caller: Admitted,
): InletHandler {
  siteCheck(caller, "The inlet").wanted(inlet.site);
  return new InletHandler(inlet, requests, UNCOUNTED);
}

/** Reads a body that describes an inlet. @throws RelayError like `readText`, wrong-content-type, bad-json or bad-request */
export async function readDescribed<Body extends object>(
  { checker }: Pick<HttpDeps, "checker">,
  req: IncomingMessage,
  form: Form,
  caller: CheckCaller,
): Promise<Body> {
  requireJson(req);
  const text = await readText(req, { bytes: limits.inletBytes, withinMs: limits.siteWithinMs });
  return checker.form<Body>(form, text, caller);
}
