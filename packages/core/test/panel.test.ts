/** A panel: what it offers is what its description says of what there is now. */
import { describe, expect, it } from "vitest";
import { buildSnapshot, type InletDescription, offeredBy, panelParts, panelReach, partAddress } from "../src/index.ts";
import { phraseSnapshot } from "./support/phrases.ts";
import { record } from "./support/site.ts";

const snapshot = phraseSnapshot;
const [lamp] = snapshot.channels.filter(({ kind }) => kind === "light");
const address = lamp?.address ?? "";
const panel = (settings: object): InletDescription => ({
  slug: "kitchen",
  name: "Kitchen",
  kind: "panel",
  site: null,
  settings: settings as Record<string, unknown>,
});

describe("a panel", () => {
  it("keeps order and wording, and what is not there any more is named as such", () => {
    const parts = panelParts(
      panel({ items: [{ show: address, name: "Lamp" }, { heading: "More" }, { show: "nowhere/nothing" }] }),
      snapshot,
    );
    expect(parts.map(({ place, name }) => [place, name])).toEqual([
      [1, "Lamp"],
      [2, "More"],
      [3, "nowhere/nothing"],
    ]);
    expect(parts.map(partAddress)).toEqual([address, null, null]);
    expect(parts[2]?.target).toBeNull();
  });

  it.each([
    ["an item that acts", { items: [{ show: address }] }, true],
    ["an item that is only shown", { items: [{ show: address, acts: false }] }, false],
    ["any item of a panel that only shows", { acts: false, items: [{ show: address, acts: true }] }, false],
  ])("offers %s: %j", (_what, settings, isOffered) => {
    const parts = panelParts(panel(settings), snapshot);
    expect(offeredBy(parts, { target: address, action: "on" }) !== undefined).toBe(isOffered);
  });

  it("offers nothing of what it does not show, and no action that a kind does not have", () => {
    const parts = panelParts(panel({ items: [{ show: address }] }), snapshot);
    const others = snapshot.channels.filter((channel) => channel.address !== address);
    for (const other of others) expect(offeredBy(parts, { target: other.address, action: "on" })).toBeUndefined();
    expect(offeredBy(parts, { target: address, action: "open" })).toBeUndefined();
  });

  it("says of a reading and of a contact that they can be seen, not switched", () => {
    const site = buildSnapshot([
      record(1, "Wren", "Porch lantern"),
      record(2, "Wren", "Air temperature", { kind: "sensor" }),
      record(3, "Wren", "Front door", { kind: "contact" }),
    ]);
    const items = [{ show: "wren/porch-lantern" }, { show: "wren/air-temperature" }, { show: "wren/front-door" }];
    expect(panelReach(panel({ items }), site)).toEqual({
      switches: ["Porch lantern"],
      sees: ["Air temperature", "Front door"],
    });
  });

  it("switches a group as a whole, and a scene by recalling it", () => {
    for (const bundle of snapshot.bundles) {
      const [part] = panelParts(panel({ items: [{ show: bundle.address }] }), snapshot);
      expect(part && partAddress(part)).toBe(bundle.address);
      expect(part?.actions).toEqual(bundle.kind === "scene" ? ["recall"] : expect.arrayContaining(["on", "off"]));
    }
    expect(snapshot.bundles.length).toBeGreaterThan(0);
  });
});
