/** What the editor offers and where it shows a mistake, for texts as people leave them half written. */
import { fileSchemas } from "@bold-relay/api/schema";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { stringify } from "yaml";
import { type Choices, choicesAt } from "../../src/parts/editor/complete.ts";
import { formMistakes, rangeOf } from "../../src/parts/editor/place-range.ts";
import type { SchemaNode } from "../../src/parts/editor/schema-node.ts";
import { fieldIn, withField } from "../../src/parts/editor/set-field.ts";

const schemas = fileSchemas() as Record<string, SchemaNode>;

/** The cursor stands at the bar. */
function offered(kind: string, marked: string, known: (place: string) => readonly string[] = () => []): string[] {
  return (choices(kind, marked, known)?.choices ?? []).map(({ text, label = text }) => label);
}

function choices(kind: string, marked: string, known: (place: string) => readonly string[] = () => []): Choices | null {
  const at = marked.indexOf("|");
  return choicesAt(schemas[kind] ?? {}, marked.replace("|", ""), at, known);
}

describe("the editor offers", () => {
  it("the fields of a site that it does not have yet", () => {
    const fields = offered("site", "slug: alder-row\n|\nrooms: []\n");
    expect(fields).toEqual(expect.arrayContaining(["name", "timeZone", "groups", "scenes", "interlocks"]));
    expect(fields).not.toContain("slug");
    expect(fields).not.toContain("rooms");
  });

  it("the fields of a channel, deep in lists, in block and in flow style", () => {
    const block =
      "slug: a\nname: A\nrooms:\n  - slug: r\n    name: R\n    devices:\n      - slug: d\n        name: D\n        profile: p\n        channels:\n          - slug: c\n            na|\n";
    expect(offered("site", block)).toEqual(expect.arrayContaining(["name", "kind", "reversed", "delivery"]));
    const flow = "rooms: [{ slug: r, devices: [{ slug: d, channels: [{ slug: c, k| }] }] }]";
    expect(offered("site", flow)).toEqual(expect.arrayContaining(["kind", "seenBy"]));
  });

  it("the values of a field that has few", () => {
    expect(offered("site", "rooms:\n  - devices:\n      - channels:\n          - kind: |\n")).toContain("dimmer");
    expect(offered("site", "interlocks:\n  - name: x\n    meets: |")).toEqual(["refuse", "switch-off"]);
    expect(offered("inlet", "paused: t|")).toEqual(["true", "false"]);
  });

  it("only what fits the kind of inlet that is written", () => {
    expect(offered("inlet", "kind: keypad\nsettings:\n  |\n")).toContain("menu");
    expect(offered("inlet", "kind: line\nsettings:\n  |\n")).not.toContain("menu");
  });

  it("identifiers that exist here", () => {
    const known = (place: string) =>
      place.endsWith("profile") ? ["own", "active-low"] : place.endsWith("channels") ? ["wren/porch"] : [];
    expect(offered("site", "rooms:\n  - devices:\n      - profile: a|\n", known)).toEqual(["own", "active-low"]);
    expect(offered("site", "groups:\n  - slug: all\n    channels:\n      - wr|\n", known)).toContain("wren/porch");
  });

  it("with each field what it means, and where the next one begins", () => {
    const found = choices("profile", "topics:\n  d|");
    expect(found?.choices.find(({ label }) => label === "do")).toMatchObject({
      text: "do: ",
      about: expect.stringMatching(/./),
    });
    expect(choices("profile", "del|")?.choices.find(({ label }) => label === "delivery")?.text).toBe("delivery:\n  ");
  });

  it("nothing in a comment or in quotation marks, and never fails", () => {
    expect(choices("site", "# na|")).toBeNull();
    expect(choices("site", 'name: "na|')).toBeNull();
    fc.assert(
      fc.property(fc.string({ unit: fc.constantFrom(..."ab:- \n[]{}#&*!|>'\",%@`?~\t") }), fc.nat(40), (text, at) => {
        choicesAt(schemas.site ?? {}, text, Math.min(at, text.length), () => ["x"]);
      }),
    );
  });
});

const site = {
  slug: "alder-row",
  name: "Alder Row",
  rooms: [
    {
      slug: "wren",
      name: "Wren",
      devices: [
        { slug: "wren", name: "Board", profile: "own", channels: [{ slug: "porch", name: "Porch", kind: "light" }] },
      ],
    },
  ],
  groups: [{ slug: "all", name: "All", channels: ["wren/porch"] }],
  interlocks: [{ name: "one lamp", channels: ["wren/porch"], meets: "refuse" }],
};
const text = stringify(site);
const shown = (at: string) => {
  const { from, to } = rangeOf(text, at);
  return text.slice(from, to);
};

describe("a finding stands", () => {
  it("at its field", () => {
    expect(shown("rooms[0].devices[0].profile")).toBe("profile: own");
    expect(shown("name")).toBe("name: Alder Row");
    expect(shown("groups[0].channels[0]")).toBe("wren/porch");
  });

  it("at what misses a field, and at the whole when nobody knows better", () => {
    expect(shown("rooms[0].devices[0].channels[0].unit")).toBe("slug: porch");
    expect(shown("nowhere.at.all")).toBe("slug: alder-row");
    expect(shown("")).toBe("slug: alder-row");
  });

  it("at the device, channel, group or interlock that it names", () => {
    expect(text.slice(0, rangeOf(text, "devices/wren").from)).toContain("devices:");
    expect(shown("devices/wren/porch")).toBe("slug: porch");
    expect(shown("groups/all")).toBe("slug: all");
    expect(shown("interlocks/one lamp")).toBe("name: one lamp");
  });

  it("within the text, whatever the text and the place are", () => {
    fc.assert(
      fc.property(fc.string(), fc.string({ unit: fc.constantFrom(..."abn/[]0.") }), (any, at) => {
        const { from, to } = rangeOf(any, at);
        expect(from).toBeGreaterThanOrEqual(0);
        expect(to).toBeGreaterThanOrEqual(from);
        expect(to).toBeLessThanOrEqual(any.length);
        for (const mistake of formMistakes(any)) expect(mistake.from).toBeLessThanOrEqual(any.length + 1);
      }),
    );
  });
});

describe("a field that is set in a text", () => {
  it("leaves comments, order and everything else as they were", () => {
    const text = "# of the porch\nname: Porch # old\nkind: light\ndelivery:\n  attempts: 2\n";
    expect(withField(text, ["name"], "Lantern")).toBe(text.replace("Porch #", "Lantern #"));
    expect(withField(text, ["delivery", "ttlMs"], 500)).toBe(`${text}  ttlMs: 500\n`);
    expect(fieldIn(text, ["delivery", "attempts"])).toBe(2);
  });

  it("and taken out again leaves nothing of it behind", () => {
    const text = "name: Porch\nkind: light\n";
    expect(withField(withField(text, ["delivery", "ttlMs"], 500), ["delivery", "ttlMs"], undefined)).toBe(text);
  });

  it("changes no text that cannot be read", () => {
    for (const text of ["name: [", "- a\n- b\n", ""]) expect(withField(text, ["name"], "x")).toBe(text);
    expect(withField("delivery: 1\n", ["delivery", "ttlMs"], 5)).toBe("delivery: 1\n");
  });
});
