/** A cottage with everything that needs care: a dimmer, a gate, vents that exclude each other, a skylight, a pump. */
import type { Profile, SiteDescription } from "@bold-relay/core";
import type { RelayBoardOptions } from "@bold-relay/standins";

const TOPICS = {
  do: "{site}/{device}/{channel}/do",
  done: "{site}/{device}/{channel}/done",
  is: "{site}/{device}/{channel}/is",
  here: "{site}/{device}/here",
};
const TIMES = { ackWithinMs: 400, attempts: 3, settleMs: 600, ttlMs: 20_000 } as const;

export const ploverProfiles: readonly Profile[] = [
  { slug: "careful", name: "Reports, times itself", codec: "json", topics: TOPICS, delivery: TIMES },
  {
    slug: "bare",
    name: "Bare words, one answer topic",
    codec: "word",
    topics: { ...TOPICS, done: "{site}/{device}/done", is: null },
    delivery: { ...TIMES, targetStage: "acknowledged" },
  },
  {
    slug: "open-ear",
    name: "Others are listened for",
    codec: "json",
    topics: { ...TOPICS, ask: "{site}/{device}/{channel}/ask" },
    delivery: TIMES,
    hearOthers: true,
  },
];

export function describePlover(slug: string): SiteDescription {
  return {
    slug,
    name: "Alder Row",
    rooms: [
      {
        slug: "plover",
        name: "Plover",
        devices: [
          {
            slug: "plover",
            name: "board in the hall",
            profile: "careful",
            channels: [
              { slug: "dim", name: "Hall dimmer", kind: "dimmer" },
              { slug: "gate", name: "Gate", kind: "pulse", delivery: { targetStage: "acknowledged" } },
              { slug: "vent-up", name: "Vent up", kind: "relay" },
              { slug: "vent-down", name: "Vent down", kind: "relay" },
              { slug: "skylight", name: "Skylight", kind: "motor", delivery: { timesItself: true, holdForMs: 900 } },
              { slug: "pump", name: "Misting pump", kind: "relay", delivery: { autoOffMs: 60_000 } },
              { slug: "heat", name: "Heating", kind: "relay", delivery: { powerUp: "restore" } },
              { slug: "sign", name: "Sign", kind: "relay", delivery: { powerUp: "safe" } },
            ],
          },
          {
            slug: "shed",
            name: "old board in the shed",
            profile: "bare",
            channels: [
              { slug: "left", name: "Shed left", kind: "relay" },
              { slug: "right", name: "Shed right", kind: "relay" },
            ],
          },
          {
            slug: "attic",
            name: "board in the attic",
            profile: "open-ear",
            channels: [{ slug: "lamp", name: "Attic lamp", kind: "light" }],
          },
        ],
      },
    ],
    groups: [
      { slug: "heaters", name: "Heaters", channels: ["plover/heat", "plover/sign"] },
      { slug: "vents", name: "Vents", channels: ["plover/vent-up", "plover/vent-down"] },
    ],
    scenes: [
      {
        slug: "evening",
        name: "Evening",
        sets: [
          { channel: "plover/dim", action: "level", value: 35 },
          { channel: "plover/sign", action: "on" },
        ],
      },
    ],
    interlocks: [
      { name: "vent direction", channels: ["plover/vent-up", "plover/vent-down"], gapMs: 120, meets: "switch-off" },
    ],
  };
}

/** What the board `plover` is told to be. */
export const PLOVER: Partial<RelayBoardOptions> = {
  channels: ["dim", "gate", "vent-up", "vent-down", "skylight", "pump", "heat", "sign"],
  contacts: { dim: 0, skylight: 0 },
  forgets: true,
};
export const SHED: Partial<RelayBoardOptions> = {
  channels: ["left", "right"],
  speaks: "word",
  oneAnswerTopic: true,
  reports: false,
};
