/**
 * A folder with the descriptions of an installation, for a team that keeps them in version control: `profiles/`, `sites/`, `inlets/`,
 * `notifications/`, one file each. It holds no secrets.
 */
import { mkdir, readdir, writeFile } from "node:fs/promises";
import path from "node:path";
import type { Client, Description, DescriptionKind } from "@bold-relay/api";
import { stringify } from "yaml";
import { readDescription } from "./description-file.ts";

/** In the order in which they need each other. */
const KINDS = ["profile", "site", "inlet", "notification"] as const satisfies readonly DescriptionKind[];

export interface Described {
  readonly kind: DescriptionKind;
  readonly slug: string;
  /** As it was read: the service checks it. */
  readonly body: Description;
}

export interface DescribedFile extends Described {
  readonly file: string;
}

/** As the service has it. */
export interface Installed extends Described {
  readonly version: number;
}

const folderOf = (kind: DescriptionKind) => `${kind}s`;
const FILE = /\.(ya?ml|json)$/;

/**
 * Reads all files of a folder.
 *
 * @throws Error when none of its folders is there, a file cannot be read, or two files describe the same
 */
export async function readFolder(folder: string): Promise<DescribedFile[]> {
  const found = (await Promise.all(KINDS.map((kind) => readKind(folder, kind)))).flat();
  if (found.length === 0)
    throw new Error(`${folder} has no descriptions. They stand in ${KINDS.map(folderOf).join("/, ")}/.`);
  const seen = new Map<string, string>();
  for (const { kind, slug, file } of found) {
    const other = seen.get(keyOf({ kind, slug }));
    if (other !== undefined) throw new Error(`${file} and ${other} both describe the ${kind} ${slug}.`);
    seen.set(keyOf({ kind, slug }), file);
  }
  return found;
}

async function readKind(folder: string, kind: DescriptionKind): Promise<DescribedFile[]> {
  const place = path.join(folder, folderOf(kind));
  const names = await readdir(place).catch((error: NodeJS.ErrnoException) => {
    if (error.code === "ENOENT") return [];
    throw error;
  });
  return Promise.all(
    names
      .filter((name) => FILE.test(name))
      .sort()
      .map(async (name) => {
        const file = path.join(place, name);
        const body = (await readDescription(file)) as Description | null;
        if (typeof body?.slug !== "string") throw new Error(`${file} describes no ${kind}: it has no “slug”.`);
        return { kind, slug: body.slug, body, file };
      }),
  );
}

/** Writes what the service has. Files of the same names are replaced, others stay. @returns the files */
export async function writeFolder(folder: string, all: readonly Described[]): Promise<string[]> {
  const files: string[] = [];
  for (const { kind, slug, body } of all) {
    const place = path.join(folder, folderOf(kind));
    await mkdir(place, { recursive: true });
    const file = path.join(place, `${slug}.yaml`);
    await writeFile(file, stringify(body));
    files.push(file);
  }
  return files;
}

/** Everything that the service has, in the order of the kinds. */
export async function installedAt(client: Client): Promise<Installed[]> {
  const [profiles, board, inlets, notifications] = await Promise.all([
    client.profiles(),
    client.board(),
    client.inlets(),
    client.notifications(),
  ]);
  const sites = await Promise.all(board.sites.map(({ slug }) => client.site(slug)));
  const inletViews = await Promise.all(inlets.map(({ slug }) => client.inlet(slug)));
  return [
    ...profiles.map(
      ({ profile, version }) => ({ kind: "profile", slug: profile.slug, body: profile, version }) as const,
    ),
    ...sites.map(({ site, version }) => ({ kind: "site", slug: site.slug, body: site, version }) as const),
    ...inletViews.map(({ inlet, version }) => ({ kind: "inlet", slug: inlet.slug, body: inlet, version }) as const),
    ...notifications.map(
      ({ notification, version }) =>
        ({ kind: "notification", slug: notification.slug, body: notification, version }) as const,
    ),
  ];
}

export const keyOf = ({ kind, slug }: Pick<Described, "kind" | "slug">): string => `${kind} ${slug}`;
