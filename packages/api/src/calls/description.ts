/** Calls about descriptions: sites and their parts, versions, checks, schemas. */

import type { SiteDescription, SiteEdit } from "@bold-relay/core";
import type { SiteListView } from "../channel-view.ts";
import type {
  DescriptionCheckView,
  DescriptionKind,
  DescriptionVersionView,
  PlanCheckView,
  SiteDescriptionView,
  SitePlanView,
  VersionRecordView,
} from "../device-view.ts";
import type { Sender } from "./sender.ts";
import { addressPath, ifMatch } from "./words.ts";

export function descriptionCalls({ send, json }: Sender) {
  return {
    /** All sites that the caller may see. */
    sites: () => json<SiteListView[]>(send("GET", "/api/v1/sites")),
    /** @param slug of a site; its description with the version that it is at */
    site: (slug: string) =>
      json<SiteDescriptionView>(send("GET", `/api/v1/sites/${encodeURIComponent(slug)}/description`)),
    /** What a description would change, and what is wrong with it; nothing is changed. */
    checkSite: (site: SiteDescription) =>
      json<SitePlanView>(send("POST", `/api/v1/sites/${encodeURIComponent(site.slug)}/check`, site)),
    /** @param version that it was made from, 0 for a new site; null: whatever it is at */
    saveSite: (site: SiteDescription, version: number | null) =>
      json<SitePlanView>(
        send("PUT", `/api/v1/sites/${encodeURIComponent(site.slug)}/description`, site, { headers: ifMatch(version) }),
      ),
    /** Deletes a site with all that is in it; log and history stay. @param version that was looked at; null: whatever it is */
    deleteSite: async (slug: string, version: number | null) =>
      void (await send("DELETE", `/api/v1/sites/${encodeURIComponent(slug)}`, undefined, {
        headers: ifMatch(version),
      })),
    /**
     * Changes one part of a site, or its own fields. Resolves to what it changed.
     *
     * @param version that it was looked at; null: whatever it is
     * @param preview true: change nothing, and say what would change
     */
    changeSite: (slug: string, edit: SiteEdit, version: number | null, preview = false) =>
      json<SitePlanView>(
        send(METHODS[edit.edit], `/api/v1/${editPath(slug, edit)}${preview ? "?preview=true" : ""}`, fieldsOf(edit), {
          headers: ifMatch(version),
        }),
      ),
    /** The versions of a description that are kept, the newest first. */
    versions: (kind: DescriptionKind, slug: string) =>
      json<VersionRecordView[]>(send("GET", `/api/v1/descriptions/${kind}/${encodeURIComponent(slug)}/versions`)),
    /** A version of a description, and what saving it again would change. */
    version: (kind: DescriptionKind, slug: string, version: number) =>
      json<DescriptionVersionView>(
        send("GET", `/api/v1/descriptions/${kind}/${encodeURIComponent(slug)}/versions/${version}`),
      ),
    /** What is wrong with a description as it stands, and what saving it would change. Nothing is saved. */
    checkDescription: (kind: DescriptionKind, description: object) =>
      json<DescriptionCheckView>(
        send("POST", `/api/v1/descriptions/${kind}/${encodeURIComponent(slugIn(description))}/check`, description),
      ),
    /** What is wrong with the plan of a translator, its form and against the sites. Nothing is kept. */
    checkPlan: (plan: object) => json<PlanCheckView>(send("POST", "/api/v1/translators/check", plan)),
    /** The JSON Schema of a kind of description. */
    schema: (kind: DescriptionKind) => json<object>(send("GET", `/api/v1/schemas/${kind}`)),
  };
}

/** What is being written may have none so far, or anything. */
function slugIn(description: object): string {
  const { slug } = description as { slug?: unknown };
  return typeof slug === "string" && slug !== "" ? slug : "new";
}

const METHODS = { site: "PATCH", put: "PUT", patch: "PATCH", delete: "DELETE" } as const;

function editPath(site: string, edit: SiteEdit): string {
  const path = `sites/${encodeURIComponent(site)}`;
  if (edit.edit === "site") return path;
  // A channel is named with its device; the name of an interlock may hold anything.
  const name = edit.part === "channels" ? addressPath(edit.name) : encodeURIComponent(edit.name);
  return `${path}/${edit.part}/${name}`;
}

function fieldsOf(edit: SiteEdit): object | undefined {
  return "fields" in edit ? edit.fields : undefined;
}
