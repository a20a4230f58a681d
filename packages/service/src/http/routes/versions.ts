/** Versions of descriptions: what there were, and what going back would change. Going back is saving one again. */
import type { DescriptionVersionView, VersionRecordView } from "@bold-relay/api";
import { fileSchemas } from "@bold-relay/api/schema";
import { type AuditChange, RelayError } from "@bold-relay/core";
import type { Router } from "express";
import { type Admitted, requireSite } from "../../auth/caller.ts";
import { type Description, type DescriptionKind, findVersion, findVersions } from "../../store/description-versions.ts";
import { descriptionChanges } from "../../views/description-changes.ts";
import { isWithin } from "../../views/reach.ts";
import type { HttpDeps } from "../deps.ts";
import { namedIn } from "./description-kind.ts";
import { withoutPin } from "./inlet-pin.ts";

export function versionRoutes({ guard, pool, checker }: Pick<HttpDeps, "guard" | "pool" | "checker">): Router {
  let schemas: Record<string, object> | null = null;

  return guard.routes({
    "GET /descriptions/:kind/:slug/versions": async (req, res, caller) => {
      const { kind, slug } = namedIn(req);
      if (kind === "site") requireSite(caller, slug);
      const rows = await findVersions(pool, kind, slug);
      // One that belonged to somebody else's site is not the caller's to see.
      const versions = rows.filter(({ site }) => !ofSites(kind) || isWithin(site, caller.sites));
      if (versions.length === 0) throw new RelayError("not-found", { what: `The ${kind} ${slug}` });
      res.json(
        versions.map(({ version, savedAt, savedBy, current }) => ({
          version,
          savedAt: savedAt === null ? null : new Date(savedAt).toISOString(),
          savedBy,
          current,
        })) satisfies VersionRecordView[],
      );
    },

    "GET /descriptions/:kind/:slug/versions/:version": async (req, res, caller) => {
      const { kind, slug } = namedIn(req);
      if (kind === "site") requireSite(caller, slug);
      const version = /^\d{1,9}$/.test(req.params.version ?? "") ? Number(req.params.version) : 0;
      const description = await shown(kind, slug, version, caller);
      if (description === null)
        throw new RelayError("not-found", { what: `Version ${req.params.version} of the ${kind} ${slug}` });
      const current = (await findVersions(pool, kind, slug)).find((one) => one.current)?.version ?? 0;
      const changes = await changesTo(kind, slug, { current, version, description }, caller);
      res.json({ version, description, current, changes } satisfies DescriptionVersionView);
    },

    "GET /schemas/:kind": (req, res) => {
      const { kind } = namedIn(req);
      schemas ??= fileSchemas();
      res.json(schemas[kind]);
    },
  });

  async function changesTo(
    kind: DescriptionKind,
    slug: string,
    { current, version, description }: { current: number; version: number; description: Description },
    caller: Admitted,
  ): Promise<AuditChange[]> {
    if (kind === "site") return checker.changes(slug, current, version, caller);
    const present = current === 0 ? null : await shown(kind, slug, current, caller);
    return descriptionChanges(kind, present, description);
  }

  /** null: there is none, or it belonged to a site that is not the caller's. */
  async function shown(
    kind: DescriptionKind,
    slug: string,
    version: number,
    caller: Admitted,
  ): Promise<Description | null> {
    const found = await findVersion(pool, kind, slug, version);
    if (found === null || !("site" in found)) return found;
    if (!isWithin(found.site, caller.sites)) return null;
    return "kind" in found ? withoutPin(found) : found;
  }
}

/** Whether descriptions of this kind belong to a site, or to every site. */
function ofSites(kind: DescriptionKind): boolean {
  return kind === "inlet" || kind === "notification";
}
