/** Numbers in a channel's own unit, bits of one number, and what stands in topics: the service's side against the device's own arithmetic. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  accessOf,
  bindCodec,
  bindFirmware,
  buildSnapshot,
  type ChannelBinding,
  type ChannelId,
  type ChannelRecord,
  type CommandId,
  checkSite,
  isGarbled,
  type KindName,
  kindOf,
  kindOfChannel,
  othersOf,
  type PayloadForm,
  type Profile,
  readInTopic,
  trialsOf,
  useOf,
  type Value,
  writingFor,
} from "../src/index.ts";

const ID = "0192b3c4-0000-7000-8000-000000000001" as CommandId;
const text = (payload: Uint8Array) => new TextDecoder().decode(payload);
const bytes = (payload: string) => new TextEncoder().encode(payload);

function setpoint(least: number, most: number, step: number): ChannelBinding {
  const kind = kindOfChannel({ kind: "setpoint", range: { least, most, step } });
  return { slug: "one", index: 1, kind, reversed: false };
}

function read(form: PayloadForm, binding: ChannelBinding, payload: string): Value | string {
  const report = bindCodec(form, binding).decodeIs(bytes(payload));
  return report === null ? "none" : isGarbled(report) ? "unreadable" : report.value;
}

describe("a setpoint", () => {
  const scales = fc.constantFrom(0.01, 0.1, 0.5, 1, 2, -0.1);

  it("is read back as what was written, whatever the device counts in", () => {
    fc.assert(
      fc.property(
        scales,
        fc.integer({ min: -60, max: 300 }),
        fc.integer({ min: -500, max: 500 }),
        (scale, n, offset) => {
          const value = Number((n * Math.abs(scale)).toPrecision(10)) + 0;
          const form = { form: "text", scale, offset } as const;
          const wire = text(bindCodec(form, setpoint(-1_000, 1_000, 0.01)).encode(ID, value, null));
          expect([scale, offset, read(form, setpoint(-1_000, 1_000, 0.01), wire)]).toEqual([scale, offset, value]);
        },
      ),
    );
  });

  it("is confirmed by the number that was written, and by no other of the device", () => {
    fc.assert(
      fc.property(fc.integer({ min: 154, max: 500 }), fc.integer({ min: -3, max: 3 }), (mireds, off) => {
        const codec = bindCodec({ form: "text", mireds: true }, setpoint(2_000, 6_500, 50));
        const kelvins = Math.round(1_000_000 / mireds / 50) * 50;
        const written = Number(text(codec.encode(ID, kelvins, null)));
        expect(written).toBe(Math.round(1_000_000 / kelvins));
        const [least, most] = codec.levels.spanAround(kelvins, 0);
        const reported = codec.decodeIs(bytes(String(written + off)));
        const value = reported !== null && !isGarbled(reported) ? Number(reported.value) : Number.NaN;
        expect([kelvins, off, value >= least && value <= most]).toEqual([kelvins, off, off === 0]);
      }),
    );
  });

  it.each([
    [{ form: "text", mireds: true } as const, "0", "unreadable"],
    [{ form: "text", scale: 0.1 } as const, "nan", "unreadable"],
    [{ form: "text", scale: 0.1, comma: true } as const, "-12,5", -1.25],
    [{ form: "text" } as const, "21.3", 21.3],
    [{ form: "text", signedBits: 16 } as const, "65535", -1],
  ])("%j reads %s as %s", (form, payload, value) => {
    expect(read(form, setpoint(5, 28, 0.5), payload)).toBe(value);
  });

  it("is tried in the middle of its range, and left there", () => {
    const kind = kindOfChannel({ kind: "setpoint", range: { least: 5, most: 28, step: 0.5 } });
    expect(trialsOf(kind).map(({ value }) => value)).toEqual([17, 16.5]);
  });
});

describe("one number with a bit for each output", () => {
  const form = { form: "text", bits: true } as const;
  const outputs = Array.from({ length: 8 }, (_, place): ChannelBinding => {
    return { slug: `o${place}`, index: place + 1, place, kind: kindOf("relay"), reversed: place % 3 === 2 };
  });

  it("changes the one that is meant and leaves the others, whichever way they are wired", () => {
    fc.assert(
      fc.property(fc.nat(255), fc.nat(7), fc.boolean(), (before, place, on) => {
        const states = outputs.map((output) => read(form, output, String(before)) as Value);
        const others = outputs.reduce((sum, output, at) => {
          return at === place ? sum : sum + (bindCodec(form, output).bitOf?.(states[at] as Value) ?? 0);
        }, 0);
        const meant = outputs[place] as ChannelBinding;
        const wire = text(bindCodec(form, meant).encode(ID, on ? "on" : "off", null, others));
        // By the board's own arithmetic: one bit is set or cleared.
        const isSet = on !== meant.reversed;
        expect(Number(wire)).toBe(isSet ? before | (1 << place) : before & ~(1 << place));
        const after = outputs.map((output) => read(form, output, wire));
        expect(after).toEqual(states.map((state, at) => (at === place ? (on ? "on" : "off") : state)));
        expect(bindFirmware(form, meant).hear(bytes(wire))?.to).toBe(on ? "on" : "off");
      }),
    );
  });

  it.each(["-1", "1.5", "4294967296", "x", ""])("is not read from %j", (payload) => {
    expect(read(form, outputs[0] as ChannelBinding, payload)).toBe("unreadable");
  });

  it("has no room for what is more than on and off, nor beyond its bits", () => {
    const [room] = [{ slug: "r", name: "R" }];
    const findings = (kind: KindName, index: number) =>
      checkSite(
        {
          slug: "s",
          name: "S",
          rooms: [
            {
              ...(room as { slug: string; name: string }),
              devices: [{ slug: "d", name: "d", profile: "p", channels: [{ slug: "a", name: "A", kind, index }] }],
            },
          ],
        },
        { profiles: new Map([["p", profile({ do: "d/set", is: "d/is" }, form)]]), ownerOf: () => null },
      ).map(({ text: said }) => said);
    expect(findings("relay", 32)).toEqual([]);
    expect(findings("relay", 33).join()).toMatch(/a message tells 32 outputs, and this is number 33/);
    expect(findings("dimmer", 1).join()).toMatch(/a dimmer is more than on or off/);
  });

  it("cannot be written where one of the others is unknown", () => {
    const snapshot = snapshotOf(profile({ do: "d/set", is: "d/is" }, form), ["one", "two", "three"]);
    const two = snapshot.byAddress.get("hall/board/two");
    if (!two) throw new Error("no channel");
    const states: Record<string, Value | null> = { one: "on", three: "on" };
    expect(othersOf(two, snapshot, ({ slug }) => states[slug] ?? null)).toBe(5);
    expect(othersOf(two, snapshot, ({ slug }) => (slug === "one" ? "on" : null))).toBeNull();
    expect(new Set(snapshot.channels.map(({ lane }) => lane)).size).toBe(1);
  });
});

it("a list of all outputs is written as it is read, whichever way each is wired", () => {
  const words = { on: "N", off: "F" };
  const form = {
    form: "text",
    do: "SET {list};",
    is: "IS {*}/{list}",
    listLength: 5,
    listSeparator: "",
    words,
  } as const;
  const outputs = Array.from({ length: 5 }, (_, place): ChannelBinding => {
    return { slug: `o${place}`, index: place + 1, place, kind: kindOf("relay"), reversed: place === 3 };
  });
  fc.assert(
    fc.property(
      fc.array(fc.boolean(), { minLength: 5, maxLength: 5 }),
      fc.nat(4),
      fc.boolean(),
      (before, place, on) => {
        const states = outputs.map(({ reversed }, at): Value => (before[at] !== reversed ? "on" : "off"));
        const others = outputs.reduce((sum, output, at) => {
          return at === place ? sum : sum + (bindCodec(form, output).bitOf?.(states[at] as Value) ?? 0);
        }, 0);
        const meant = outputs[place] as ChannelBinding;
        const wire = text(bindCodec(form, meant).encode(ID, on ? "on" : "off", null, others));
        const set = before.map((was, at) => (at === place ? on !== meant.reversed : was));
        expect(wire).toBe(`SET ${set.map((one) => (one ? "N" : "F")).join("")};`);
        expect(outputs.map((output) => read(form, output, wire.replace("SET ", "IS 4/").replace(";", "")))).toEqual(
          states.map((state, at) => (at === place ? (on ? "on" : "off") : state)),
        );
        expect(bindFirmware(form, meant).hear(bytes(wire))?.to).toBe(on ? "on" : "off");
      },
    ),
  );
});

it("of two boards behind one topic, each has a number of its own", () => {
  const nodes = {
    form: "fields",
    bits: true,
    do: { dev: "{node}", out: "{value}" },
    is: { value: "/out", node: "/dev" },
  };
  const snapshot = snapshotOf(
    profile({ do: "bus/set", is: "bus/is" }, nodes as PayloadForm),
    ["one", "two", "three"],
    [
      { node: 7, index: 1 },
      { node: 9, index: 1 },
      { node: 7, index: 2 },
    ],
  );
  const one = snapshot.byAddress.get("hall/board/one");
  if (!one) throw new Error("no channel");
  const others = othersOf(one, snapshot, () => "on");
  expect(others).toBe(2);
  expect(text(writingFor(one, ID, "on", null, others ?? 0)?.payload ?? bytes(""))).toBe('{"dev":7,"out":3}');
});

describe("a topic that says something of its message", () => {
  const open = profile({ do: "b/{channel}/set/{value}", done: "b/ack/{id}", is: "b/{channel}/now/{value}" }, "word");

  it("is written with the value of the command, and read by it", () => {
    const snapshot = snapshotOf(open, ["one", "two"]);
    const one = snapshot.byAddress.get("hall/board/one");
    if (!one) throw new Error("no channel");
    expect(writingFor(one, ID, "on", null)?.topic).toBe("b/one/set/on");
    expect(one.topics).toMatchObject({ do: "b/one/set/+", done: "b/ack/+", is: "b/one/now/+" });
    expect([one.namesCommand, snapshot.filters.length > 0]).toEqual([true, true]);
  });

  it("is found among exact ones, and only where all its other levels are the same", () => {
    const snapshot = snapshotOf(open, ["one", "two"]);
    expect(useOf(snapshot, "b/one/now/off")?.is.map(({ slug }) => slug)).toEqual(["one"]);
    expect(useOf(snapshot, "b/two/set/on")?.do.map(({ slug }) => slug)).toEqual(["two"]);
    for (const topic of ["b/one/now", "b/one/now/off/more", "b/three/now/off", "x/one/now/off", "b/ack"])
      expect([topic, useOf(snapshot, topic)]).toEqual([topic, undefined]);
  });

  it("reads what was filled in, for any text that a level may hold", () => {
    fc.assert(
      fc.property(fc.string({ unit: "grapheme", minLength: 1, maxLength: 20 }), (level) => {
        fc.pre(!/[/+#]/.test(level));
        expect(readInTopic("b/{value}/x/{id}", `b/${level}/x/7`)).toEqual({ value: level, id: "7" });
      }),
    );
  });

  it("may not reach the topics of another device", () => {
    const devices = ["d", "e"].map((slug) => ({
      slug,
      name: slug,
      profile: slug === "d" ? "open" : "plain",
      channels: [{ slug: "a", name: slug, kind: "relay" as const }],
    }));
    const profiles = new Map([
      ["open", profile({ do: "house/{device}/set", is: "house/{value}/is" }, "word")],
      ["plain", profile({ do: "house/{device}/set", is: "house/{device}/is" }, "word")],
    ]);
    const site = { slug: "s", name: "S", rooms: [{ slug: "r", name: "R", devices }] };
    const said = checkSite(site, { profiles, ownerOf: () => null }).map(({ text: one }) => one);
    expect(said.join()).toMatch(/uses the topic house\/e\/is, which belongs to s\/d/);
    const turned = { ...site, rooms: [{ slug: "r", name: "R", devices: devices.toReversed() }] };
    expect(
      checkSite(turned, { profiles, ownerOf: () => null })
        .map(({ text: one }) => one)
        .join(),
    ).toMatch(/uses the topic house\/\+\/is, which belongs to s\/e/);
  });

  it("is a right of its device by one filter, and by no more than that", () => {
    const site = profile(
      { do: "{site}/{device}/{channel}/set/{value}", is: "{site}/{device}/{channel}/now/{value}" },
      "word",
    );
    const { filters, reads, writes } = accessOf(snapshotOf(site, ["one"]).channels);
    expect({ filters, reads, writes }).toEqual({
      filters: ["hall/board/#", "hall/board/+/set/+"],
      reads: ["hall/board/one/set/+"],
      writes: ["hall/board/one/now/+"],
    });
  });

  it("is refused where commands are retained", () => {
    const kept = { ...profile({ do: "b/{value}" }, "word"), retainCommands: true };
    const devices = [
      { slug: "d", name: "d", profile: "p", channels: [{ slug: "a", name: "A", kind: "relay" as const }] },
    ];
    const site = { slug: "s", name: "S", rooms: [{ slug: "r", name: "R", devices }] };
    const said = checkSite(site, { profiles: new Map([["p", kept]]), ownerOf: () => null });
    expect(said.map(({ text: one }) => one).join()).toMatch(/command topic differs with each/);
  });

  it("is refused where a value cannot stand in a topic", () => {
    const slashes = profile({ do: "b/{value}" }, { form: "text", words: { on: "relay/on", off: "off" } });
    const devices = [
      { slug: "d", name: "d", profile: "p", channels: [{ slug: "a", name: "A", kind: "relay" as const }] },
    ];
    const site = { slug: "s", name: "S", rooms: [{ slug: "r", name: "R", devices }] };
    const said = checkSite(site, { profiles: new Map([["p", slashes]]), ownerOf: () => null });
    expect(said.map(({ text: one }) => one).join()).toMatch(/“relay\/on” cannot stand in a topic/);
  });
});

function profile(topics: Partial<Profile["topics"]>, codec: PayloadForm): Profile {
  const all = { do: null, done: null, is: null, here: null, ...topics };
  return { slug: "p", name: "P", codec, topics: all, delivery: topics.is ? {} : { targetStage: "published" } };
}

function snapshotOf(described: Profile, slugs: readonly string[], wiring: readonly ChannelRecord["wiring"][] = []) {
  return buildSnapshot(
    slugs.map(
      (slug, at): ChannelRecord => ({
        ...{ id: (at + 1) as ChannelId, number: at + 1, slug, name: slug, kind: "relay", delivery: {} },
        wiring: wiring[at] ?? {},
        ...{ site: { slug: "hall", name: "Hall" }, room: { slug: "porch", name: "Porch" } },
        device: { id: 1, slug: "board", name: "Board" },
        profile: described,
      }),
    ),
  );
}
