/** What is soaked: four boards with everything that needs care, on short times so that much happens in an hour. */

export const SITE = "soak";
const BOARDS = ["north", "east", "south", "west"] as const;

/** How long a pump may run, ms. */
export const AUTO_OFF_MS = 6_000;

const channels = [
  { slug: "porch", name: "Porch", kind: "light" },
  { slug: "hall", name: "Hall", kind: "relay" },
  { slug: "dim", name: "Dimmer", kind: "dimmer", delivery: { powerUp: "restore" } },
  { slug: "gate", name: "Gate", kind: "pulse", delivery: { targetStage: "acknowledged" } },
  { slug: "pump", name: "Pump", kind: "relay", delivery: { autoOffMs: AUTO_OFF_MS } },
  { slug: "vent-up", name: "Vent up", kind: "relay" },
  { slug: "vent-down", name: "Vent down", kind: "relay" },
  { slug: "motor", name: "Motor", kind: "motor" },
];

export const profile = {
  slug: "soaked",
  name: "Soaked board",
  codec: "json",
  topics: {
    do: "{site}/{device}/{channel}/do",
    done: "{site}/{device}/{channel}/done",
    is: "{site}/{device}/{channel}/is",
    here: "{site}/{device}/here",
  },
  delivery: { targetStage: "confirmed", ackWithinMs: 500, attempts: 3, ttlMs: 4_000, settleMs: 1_000 },
};

export const site = {
  slug: SITE,
  name: "Soak",
  rooms: [
    {
      slug: "yard",
      name: "Yard",
      devices: BOARDS.map((slug) => ({ slug, name: `board in the ${slug}`, profile: profile.slug, channels })),
    },
  ],
  groups: [{ slug: "porches", name: "Porches", channels: BOARDS.map((board) => `${board}/porch`) }],
  interlocks: BOARDS.map((board) => ({
    name: `vents of ${board}`,
    channels: [`${board}/vent-up`, `${board}/vent-down`],
    gapMs: 200,
    meets: "switch-off",
  })),
};

const addressesOf = (slug: string) => new Set(BOARDS.map((board) => `${SITE}/${board}/${slug}`));
/** Each command of these may close the contact once. */
export const pulses = addressesOf("gate");
/** These go off by themselves. */
export const autoOff = addressesOf("pump");

/** Whose people want to switch next door. */
export const neighbour = {
  slug: "next-door",
  name: "Next door",
  rooms: [
    {
      slug: "yard",
      name: "Yard",
      devices: [{ slug: "board", name: "board", profile: profile.slug, channels: channels.slice(0, 1) }],
    },
  ],
};

export const boardPlans = BOARDS.map((device) => ({
  site: SITE,
  device,
  channels: channels.map((channel) => channel.slug),
  contacts: { dim: 0, motor: 0 } as const,
  forgets: true,
  switchMs: 3,
  slowMs: 700,
}));

/** Everything that may be asked, weighed by how often it is listed. */
export const asks: readonly { target: string; action: string; value?: number; forMs?: number }[] = BOARDS.flatMap(
  (board) => [
    ...["porch", "hall", "vent-up", "vent-down"].flatMap((channel) => [
      { target: `${SITE}/${board}/${channel}`, action: "on" },
      { target: `${SITE}/${board}/${channel}`, action: "off" },
      { target: `${SITE}/${board}/${channel}`, action: "toggle" },
    ]),
    { target: `${SITE}/${board}/hall`, action: "on", forMs: 1_500 },
    { target: `${SITE}/${board}/dim`, action: "level", value: 35 },
    { target: `${SITE}/${board}/dim`, action: "level", value: 80 },
    { target: `${SITE}/${board}/dim`, action: "brighter" },
    { target: `${SITE}/${board}/dim`, action: "darker" },
    { target: `${SITE}/${board}/gate`, action: "pulse" },
    { target: `${SITE}/${board}/pump`, action: "on" },
    { target: `${SITE}/${board}/motor`, action: "open" },
    { target: `${SITE}/${board}/motor`, action: "stop" },
    { target: `${SITE}/porches`, action: board === "north" ? "off" : "toggle" },
  ],
);
