/** Boards as their makers' sheets describe them, one device of one site each, and what a test asks of them. */
import type { DeliveryPolicy, DeviceDescription, Profile } from "@bold-relay/core";
import { type ScriptedBoard, scriptedBoard } from "./scripted-board.ts";
import { channelNow, untilChannel } from "./until.ts";
import { createWorld } from "./world.ts";

const QUICK: Partial<DeliveryPolicy> = { ackWithinMs: 400, attempts: 1, settleMs: 1_500, ttlMs: 20_000 };
const plain = { do: "c/{device}/{channel}/set", done: null, is: "c/{device}/{channel}", here: null } as const;

export type Described = Omit<DeviceDescription, "slug" | "name" | "profile"> & {
  readonly profile: Omit<Profile, "slug" | "name">;
};

export const one = (
  kind: "relay" | "dimmer" | "position" | "colour" | "sensor" | "contact" | "setpoint",
  more = {},
) => [{ slug: "one", name: "One", kind, ...more }];
export const text = (
  more: object = {},
  delivery: Partial<DeliveryPolicy> = {},
  topics: object = {},
): Described["profile"] => ({
  codec: { form: "text", ...more },
  topics: { ...plain, ...topics },
  delivery: { ...QUICK, ...delivery },
});
const OPEN_SHUT = { words: { open: "open", shut: "closed", stop: "halt" } };

export const BOARDS: Readonly<Record<string, Described>> = {
  "ten-steps": { profile: text({ range: [0, 10] }), channels: one("dimmer") },
  fan: { profile: text({ range: [0, 4] }), channels: one("dimmer") },
  loose: { profile: text({ range: [0, 255] }, { tolerance: 2 }), channels: one("dimmer") },
  blind: { profile: text({ words: { stop: "halt" } }, { stillMs: 300, settleMs: 3_000 }), channels: one("position") },
  halting: { profile: text({ words: { stop: "halt" } }, { stillMs: 300, settleMs: 3_000 }), channels: one("position") },
  "late-will": {
    profile: text({ here: { up: "hi", down: "bye" } }, {}, { here: "c/{device}/here" }),
    channels: one("relay"),
  },
  unproven: { profile: text(), channels: one("relay") },
  garage: { profile: text(OPEN_SHUT), channels: one("position") },
  manual: { profile: text({ words: { on: "ON", off: "OFF" } }), channels: one("relay") },
  meter: { profile: text({}, {}, { do: null }), channels: one("sensor", { unit: "W" }) },
  quiet: { profile: text({}, { reports: "onChange" }), channels: one("relay") },
  asked: { profile: text({}, { reports: "onChange" }, { ask: "c/{device}/{channel}/get" }), channels: one("relay") },
  slow: { profile: text({}, { settleMs: 6_000 }), channels: one("position") },
  dead: { profile: text({}, { attempts: 3 }), channels: one("relay") },
  nul: { profile: text(), channels: one("relay") },
  level: { profile: text({ words: { on: "ON", off: "OFF" } }), channels: one("dimmer") },
  hsv: { profile: text({ colours: "parts" }), channels: one("colour") },
  sleeper: { profile: { ...text({}, { ackWithinMs: 15_000 }), retainCommands: true }, channels: one("relay") },
  nobody: { profile: text(), channels: one("relay") },
  acked: {
    profile: text({}, { targetStage: "acknowledged" }, { done: "c/{device}/done" }),
    channels: one("relay"),
  },
  acks: {
    profile: text({}, { targetStage: "acknowledged", attempts: 3 }, { is: null, done: "c/{device}/done" }),
    channels: one("relay"),
  },
  polled: {
    profile: text({}, { askAfterMs: 200, askEveryMs: 1_000, settleMs: 5_000 }, { ask: "c/{device}/{channel}/get" }),
    channels: one("relay"),
  },
  mute: { profile: text({}, { offlineAfterMs: 2_000 }), channels: one("relay") },
  numbered: {
    profile: text({ do: "{value} {number}", is: "{value} {number}" }),
    channels: one("relay"),
  },
  bus: {
    profile: {
      codec: {
        form: "fields",
        do: { dev: "{node}", out: "{index}", state: "{value}" },
        is: { value: "/state", index: "/out", node: "/dev", match: { "/kind": "relay" } },
        words: { on: 1, off: 0 },
      },
      topics: { ...plain, do: "c/{device}/in/set", is: "c/{device}/out" },
      delivery: QUICK,
    },
    channels: [
      { slug: "one", name: "One", kind: "relay", node: 7, index: 1 },
      { slug: "two", name: "Two", kind: "relay", node: 9, index: 1 },
    ],
  },
  "stop-topic": {
    profile: text({ words: { stop: "now" } }, { settleMs: 3_000 }, { stop: "c/{device}/{channel}/halt" }),
    channels: one("position"),
  },
  gate: {
    profile: text(),
    channels: [
      {
        slug: "one",
        name: "One",
        kind: "position",
        drive: "impulse",
        seenBy: { open: "gate/up", shut: "gate/down" },
        topics: { is: null },
      },
      { slug: "up", name: "Up", kind: "contact" },
      { slug: "down", name: "Down", kind: "contact" },
    ],
  },
};

/** A site that has these boards, and nothing of them running yet. */
export async function claimsOf(described: Readonly<Record<string, Described>>) {
  const profiles = Object.entries(described).map(
    ([slug, { profile }]): Profile => ({ slug: `c-${slug}`, name: slug, ...profile }),
  );
  const world = await createWorld({ profiles });
  const devices = Object.entries(described).map(([slug, { profile: _, channels, ...more }]) => ({
    slug,
    name: `${slug} board`,
    profile: `c-${slug}`,
    ...more,
    channels: channels.map((channel) => ({ ...channel, name: `${slug} ${channel.slug}` })),
  }));
  const rooms = [{ slug: "lab", name: "Lab", devices }];
  await world.client.saveSite({ slug: world.site, name: "Claims", rooms }, null);
  const boards = new Map<string, ScriptedBoard>();
  const stateOf = (name: string, channel = "one") => `c/${name}/${channel}`;

  return {
    world,
    boards,
    stateOf,
    /** Connects a board. @param obey what its firmware does by itself */
    async plug(name: string, obey?: Parameters<typeof scriptedBoard>[2]): Promise<ScriptedBoard> {
      const board = await scriptedBoard(world, [`c/${name}/+/set`], obey);
      boards.set(name, board);
      return board;
    },
    ask: (name: string, action: string, more: object = {}) => world.ask(`${name}/one`, action, 25, more),
    said: async (phrase: string) => (await world.client.say(phrase)).reply,
    heardSo: (name: string, value: string | number, channel = "one") =>
      untilChannel(
        world.client,
        world.address(`${name}/${channel}`),
        (it) => it.observed?.value === value && it.observed.stale === null,
      ),
    async now(name: string) {
      const channel = await channelNow(world.client, world.address(`${name}/one`));
      if (!channel) throw new Error(`${name} is on no board`);
      return channel;
    },
    alertsOn: async (name: string) =>
      (await world.client.alerts()).filter(({ subject }) => subject.startsWith(world.address(name))),
  };
}
