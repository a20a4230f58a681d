/** Names, topics and settings of a site's channels, and what may be asked of them. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { nearestNames, normalName, resolveName } from "../src/index.ts";
import { snapshot } from "./support/site.ts";

function found(text: string, site: string | null = null): string | string[] {
  const resolution = resolveName(snapshot, text, site === null ? null : [site]);
  if ("found" in resolution) return resolution.found.address;
  if ("bundle" in resolution) return resolution.bundle.address;
  if ("ambiguous" in resolution) return [...resolution.ambiguous];
  if ("wildcard" in resolution) return `wildcard ${resolution.wildcard}`;
  return ["unknown", ...nearestNames(snapshot, text, site === null ? null : [site])];
}

describe("names", () => {
  it.each([
    ["alder-row/wren/porch-lantern", "alder-row/wren/porch-lantern"],
    ["wren/porch-lantern", "alder-row/wren/porch-lantern"],
    ["Porch Lantern, Wren", "alder-row/wren/porch-lantern"],
    ["  wren   PORCH lantern", "alder-row/wren/porch-lantern"],
    ["Ｈall light", "alder-row/wren/hall-light"],
    ["gate lock", "alder-row/plover/gate-lock"],
    ["porch lantern", ["alder-row/wren/porch-lantern", "alder-row/finch/porch-lantern"]],
    ["porch", ["unknown", "alder-row/wren/porch-lantern", "alder-row/finch/porch-lantern"]],
    ["porch wren", ["unknown", "alder-row/wren/porch-lantern"]],
    ["orch", ["unknown"]],
    ["gate lokc", ["unknown", "alder-row/plover/gate-lock"]],
    ["porch lantern wern", ["unknown", "alder-row/wren/porch-lantern", "alder-row/finch/porch-lantern"]],
    ["alder-row/+/porch", "wildcard +"],
    ["#", "wildcard #"],
    ["", ["unknown"]],
  ])("“%s” → %s", (text, expected) => {
    expect(found(text)).toEqual(expected);
  });

  it("of another site are neither found nor offered", () => {
    expect(found("outdoor sign", "alder-row")).toEqual(["unknown"]);
    expect(found("outdoor sihn", "alder-row")).toEqual(["unknown"]);
    expect(found("outdoor sign", "fennel-hall")).toBe("fennel-hall/foyer/outdoor-sign");
  });

  it("any text is either found or not: it never throws, and never finds what it does not name", () => {
    fc.assert(
      fc.property(fc.string(), (text) => {
        const resolution = resolveName(snapshot, text, null);
        if ("found" in resolution) expect(snapshot.byName.get(normalName(text))).toEqual([resolution.found]);
      }),
    );
  });
});

describe("the snapshot", () => {
  it("fills the topics, and covers them with one filter a site and role", () => {
    expect(snapshot.channels[0]?.topics).toEqual({
      do: "alder-row/wren/porch-lantern/do",
      stop: null,
      ask: null,
      done: "alder-row/wren/porch-lantern/done",
      is: "alder-row/wren/porch-lantern/is",
    });
    expect(snapshot.filters).toContain("alder-row/+/+/is");
    expect(snapshot.filters).toHaveLength(6);
    expect(snapshot.byTopic.get("alder-row/wren/here")).toMatchObject({ here: { device: "alder-row/wren" } });
  });

  it("lays the channel's settings over the profile's, and those over the defaults", () => {
    const policy = snapshot.channels[3]?.policy;
    expect([policy?.targetStage, policy?.settleMs, policy?.attempts]).toEqual(["acknowledged", 5_000, 3]);
  });
});
