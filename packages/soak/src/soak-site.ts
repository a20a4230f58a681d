/**
 * What is soaked: four boards with everything that needs care, on short times so that much happens in an hour. Where there are several shards,
 * each further one has a site with one such board.
 */

export const SITE = "soak";
const BOARDS = ["north", "east", "south", "west"] as const;
const MOST_SITES = 16;

/** The identifiers of so many sites. */
export const siteNames = (count: number) =>
  Array.from({ length: Math.min(count, MOST_SITES) }, (_, index) => (index === 0 ? SITE : `${SITE}-${index + 1}`));

const boardsOf = (slug: string) => (slug === SITE ? BOARDS : BOARDS.slice(0, 1));

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

export const siteOf = (slug: string) => ({
  slug,
  name: slug === SITE ? "Soak" : `Soak ${slug.slice(SITE.length + 1)}`,
  rooms: [
    {
      slug: "yard",
      name: "Yard",
      devices: boardsOf(slug).map((board) => ({
        slug: board,
        name: `board in the ${board}`,
        profile: profile.slug,
        channels,
      })),
    },
  ],
  groups: [{ slug: "porches", name: "Porches", channels: boardsOf(slug).map((board) => `${board}/porch`) }],
  interlocks: boardsOf(slug).map((board) => ({
    name: `vents of ${board}`,
    channels: [`${board}/vent-up`, `${board}/vent-down`],
    gapMs: 200,
    meets: "switch-off",
  })),
});

const addressesOf = (channel: string) =>
  new Set(siteNames(MOST_SITES).flatMap((slug) => boardsOf(slug).map((board) => `${slug}/${board}/${channel}`)));
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

export const boardPlansOf = (sites: readonly string[]) =>
  sites.flatMap((site) =>
    boardsOf(site).map((device) => ({
      site,
      device,
      channels: channels.map((channel) => channel.slug),
      contacts: { dim: 0, motor: 0 } as const,
      forgets: true,
      switchMs: 3,
      slowMs: 700,
    })),
  );

export interface SoakAsk {
  readonly target: string;
  readonly action: string;
  readonly value?: number;
  readonly forMs?: number;
}

/** Everything that may be asked, weighed by how often it is listed. */
export const asksOf = (sites: readonly string[]): readonly SoakAsk[] =>
  sites.flatMap((site) => boardsOf(site).flatMap((board) => asksOfBoard(site, board)));

function asksOfBoard(site: string, board: string): SoakAsk[] {
  const of = (channel: string) => `${site}/${board}/${channel}`;
  return [
    ...["porch", "hall", "vent-up", "vent-down"].flatMap((channel) =>
      ["on", "off", "toggle"].map((action) => ({ target: of(channel), action })),
    ),
    { target: of("hall"), action: "on", forMs: 1_500 },
    { target: of("dim"), action: "level", value: 35 },
    { target: of("dim"), action: "level", value: 80 },
    { target: of("dim"), action: "brighter" },
    { target: of("dim"), action: "darker" },
    { target: of("gate"), action: "pulse" },
    { target: of("pump"), action: "on" },
    { target: of("motor"), action: "open" },
    { target: of("motor"), action: "stop" },
    { target: `${site}/porches`, action: board === "north" ? "off" : "toggle" },
  ];
}
