/** What the cluster test switches beside the sites of the soak: in each shard a lamp of its own, for who measures how long nothing switches. */
import { profile } from "../soak-site.ts";

/** Of the inlet too. */
export const PROBE = "probe";

/** The identifiers of so many sites with a lamp. */
export const probeSites = (count: number) =>
  Array.from({ length: count }, (_, index) => (index === 0 ? PROBE : `${PROBE}-${index + 1}`));

/** What is switched at one of them. */
export const lampOf = (site: string) => `${site}/board/lamp`;

export const probeSiteOf = (slug: string) => ({
  slug,
  name: slug,
  rooms: [
    {
      slug: "hall",
      name: "Hall",
      devices: [
        {
          slug: "board",
          name: "board",
          profile: profile.slug,
          channels: [{ slug: "lamp", name: "Lamp", kind: "light" }],
        },
      ],
    },
  ],
});

export const probeBoardOf = (site: string) => ({
  site,
  device: "board",
  channels: ["lamp"],
  contacts: {},
  forgets: true,
  switchMs: 3,
  slowMs: 700,
});
