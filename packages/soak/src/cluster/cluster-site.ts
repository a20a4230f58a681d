/** What the cluster test switches: the site of the soak, and a lamp of its own for who measures how long nothing switches. */
import { profile } from "../soak-site.ts";

export const PROBE_SITE = "probe";
export const PROBE = `${PROBE_SITE}/board/lamp`;

export const probeSite = {
  slug: PROBE_SITE,
  name: "Probe",
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
};

export const probeBoard = {
  site: PROBE_SITE,
  device: "board",
  channels: ["lamp"],
  contacts: {},
  forgets: true,
  switchMs: 3,
  slowMs: 700,
};
