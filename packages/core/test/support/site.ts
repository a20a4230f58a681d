/** A small site for tests of names and guards. */
import { buildSnapshot, type ChannelId, type ChannelRecord, type Profile, type Snapshot } from "../../src/index.ts";

const profile: Profile = {
  slug: "reporting",
  name: "Reports",
  codec: "json",
  topics: {
    do: "{site}/{device}/{channel}/do",
    done: "{site}/{device}/{channel}/done",
    is: "{site}/{device}/{channel}/is",
    here: "{site}/{device}/here",
  },
  delivery: { settleMs: 5_000 },
};

export function record(id: number, room: string, name: string, more: Partial<ChannelRecord> = {}): ChannelRecord {
  const roomSlug = room.toLowerCase();
  return {
    id: id as ChannelId,
    number: id,
    slug: name.toLowerCase().replaceAll(" ", "-"),
    name,
    kind: "light",
    delivery: {},
    wiring: {},
    site: { slug: "alder-row", name: "Alder Row" },
    room: { slug: roomSlug, name: room },
    device: { id, slug: roomSlug, name: `board in ${room}` },
    profile,
    ...more,
  };
}

export const snapshot: Snapshot = buildSnapshot(
  [
    record(1, "Wren", "Porch lantern"),
    record(2, "Wren", "Hall light"),
    record(3, "Finch", "Porch lantern"),
    record(4, "Plover", "Gate lock", { kind: "relay", delivery: { targetStage: "acknowledged" } }),
    record(6, "Wren", "Hall dimmer", { kind: "dimmer" }),
    record(7, "Plover", "Gate", { kind: "pulse", delivery: { targetStage: "acknowledged" } }),
    record(8, "Plover", "Vent up", { kind: "relay" }),
    record(9, "Plover", "Vent down", { kind: "relay" }),
    record(10, "Finch", "Skylight", { kind: "motor", delivery: { holdForMs: 800, timesItself: true } }),
    record(11, "Finch", "Pump", { kind: "relay", delivery: { autoOffMs: 60_000 } }),
    record(12, "Finch", "Winch", { kind: "motor", delivery: { holdForMs: 800 } }),
    record(5, "Foyer", "Outdoor sign", { site: { slug: "fennel-hall", name: "Fennel Hall" } }),
  ],
  [
    {
      slug: "alder-row",
      name: "Alder Row",
      groups: [
        { slug: "porches", name: "All porches", channels: ["wren/porch-lantern", "finch/porch-lantern"] },
        { slug: "wren-hall", name: "Wren hall", channels: ["wren/hall-light", "wren/hall-dimmer"] },
      ],
      scenes: [
        {
          slug: "evening",
          name: "Evening",
          sets: [
            { channel: "wren/hall-dimmer", action: "level", value: 35 },
            { channel: "wren/porch-lantern", action: "on" },
          ],
        },
      ],
      interlocks: [
        { name: "vent direction", channels: ["plover/vent-up", "plover/vent-down"], gapMs: 500, meets: "switch-off" },
      ],
    },
  ],
);
