/** The made-up sites of the demo, read from demo-data. */
import { readFileSync } from "node:fs";
import { fileURLToPath } from "node:url";

const FOLDER = fileURLToPath(new URL("../../demo-data/", import.meta.url));

export const PROFILE_FILES = ["reporting-board", "answering-board", "timing-box"].map(
  (name) => `${FOLDER}profile-${name}.json`,
);
export const SITE_FILES = ["alder-row", "glasshouse", "fennel-hall"].map((name) => `${FOLDER}site-${name}.json`);

export const PAST_FILE = `${FOLDER}past.sql`;

/** The owner of the demo, a member of the made-up team Copperleaf Controls. */
export const OWNER = "Ines";
export const INLET = { slug: "hall-tablet", name: "Hall tablet", site: "alder-row" };

interface DemoChannel {
  readonly slug: string;
  readonly kind: string;
  readonly reversed?: boolean;
}

export interface DemoBoard {
  readonly site: string;
  readonly device: string;
  readonly channels: DemoChannel[];
  /** The slug of its profile. */
  readonly profile: string;
  /** Whether the stand-in reports what its channels are. */
  readonly reports: boolean;
  /** Everything is off after a power cut. */
  readonly forgets: boolean;
}

/** A device that speaks no MQTT, and how its translator reaches it; ports and keys are the house's to say. */
export interface FarDevice {
  readonly site: string;
  readonly device: string;
  readonly reach: { readonly by: "http" | "lines" | "mailbox" | "radio" | "lamps" } & Record<string, unknown>;
}

export const FAR_DEVICES = JSON.parse(readFileSync(`${FOLDER}translated.json`, "utf8")) as FarDevice[];

interface SiteFile {
  slug: string;
  rooms: { devices: { slug: string; profile: string; channels: DemoChannel[] }[] }[];
}

/** One stand-in for every device of the demo's sites. */
export function demoBoards(): DemoBoard[] {
  const sites = SITE_FILES.map((file) => JSON.parse(readFileSync(file, "utf8")) as SiteFile);
  return sites.flatMap((site) =>
    site.rooms.flatMap((room) =>
      room.devices.map((device) => ({
        site: site.slug,
        device: device.slug,
        channels: device.channels.map(({ slug, kind, reversed = false }) => ({ slug, kind, reversed })),
        profile: device.profile,
        reports: device.profile !== "answering-board",
        forgets: true,
      })),
    ),
  );
}

/** The broker user of a device. @param device `<site>/<device>` */
export function userName(device: string): string {
  return device.replace("/", ".");
}
