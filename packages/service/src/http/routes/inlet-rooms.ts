/** Finding the inlet that an address names, and reading one that is described in a body, for whoever may. */
import { inletSchema } from "@bold-relay/api/schema";
import { type InletDescription, RelayError } from "@bold-relay/core";
import { type Admitted, siteCheck } from "../../auth/caller.ts";
import type { Room } from "../../inlets/house.ts";
import { Reception, UNCOUNTED } from "../../inlets/reception.ts";
import { isWithin } from "../../view/reach.ts";
import type { HttpParts } from "../parts.ts";

/** @throws RelayError not-found: of what is not theirs they do not learn that it is there */
export function roomOf({ house }: Pick<HttpParts, "house">, slug: string | undefined, caller: Admitted): Room {
  const room = house.get(slug ?? "");
  if (!room || !isWithin(room.record.inlet.site, caller.sites))
    throw new RelayError("not-found", { what: `The inlet ${slug}` });
  return room;
}

/** An inlet that is described and not saved. @throws RelayError bad-request or not-permitted */
export function describedReception(
  { desk }: Pick<HttpParts, "desk">,
  inlet: InletDescription,
  caller: Admitted,
): Reception {
  const { value, error } = inletSchema.validate(inlet);
  if (error)
    throw new RelayError("bad-request", {
      why: error.details
        .map((one) => one.message)
        .join("; ")
        .slice(0, 1_000),
    });
  siteCheck(caller, "The inlet").wanted(value.site);
  return new Reception(value, desk, UNCOUNTED);
}
