/** A key never gives more than its holder has. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  type KeyLimits,
  limitedStanding,
  NO_LIMITS,
  RIGHTS,
  ROLES,
  type Role,
  type Standing,
  sitesWith,
} from "../src/index.ts";

const SITES = ["alder-row", "glasshouse", "fennel-hall"];
const role = fc.constantFrom<Role>(...ROLES);
const siteRole = fc.constantFrom<Role>("reader", "user", "operator", "engineer");
const standing: fc.Arbitrary<Standing> = fc.record({
  team: fc.option(role),
  sites: fc.dictionary(fc.constantFrom(...SITES), siteRole),
});
const limits: fc.Arbitrary<KeyLimits> = fc.record({
  most: fc.option(role),
  sites: fc.option(fc.uniqueArray(fc.constantFrom(...SITES, "elsewhere"))),
  expiresAt: fc.option(fc.nat(1_000)),
});

/** Whether one reaches no site that the other does not, for every right. */
function isWithin(one: Standing, other: Standing): boolean {
  return RIGHTS.every((right) => {
    const [mine, theirs] = [sitesWith(one, right), sitesWith(other, right)];
    return theirs === null || (mine?.every((site) => theirs.includes(site)) ?? false);
  });
}

describe("a key", () => {
  it("gives no right at no site that its holder has not", () => {
    fc.assert(fc.property(standing, limits, (of, by) => isWithin(limitedStanding(of, by), of)));
  });

  it("of an owner for one site governs nothing", () => {
    const key = limitedStanding({ team: "owner", sites: {} }, { ...NO_LIMITS, sites: ["glasshouse"] });
    expect(key).toEqual({ team: null, sites: { glasshouse: "engineer" } });
    expect(sitesWith(key, "govern")).toEqual([]);
  });

  it("without limits gives what its holder has", () => {
    fc.assert(
      fc.property(standing, (of) => {
        expect(limitedStanding(of, NO_LIMITS)).toEqual(of);
      }),
    );
  });
});

describe("the roles", () => {
  it.each([
    ["reader", ["see"]],
    ["user", ["see", "switch"]],
    ["operator", ["see", "switch", "operate"]],
    ["engineer", ["see", "switch", "operate", "build"]],
    ["owner", ["see", "switch", "operate", "build", "govern"]],
  ] as const)("a %s may %j", (of, rights) => {
    const may = RIGHTS.filter((right) => sitesWith({ team: of, sites: {} }, right) === null);
    expect(may).toEqual(rights);
  });
});
