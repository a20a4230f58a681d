/** Descriptions are checked as they are written: all mistakes with their places, and what saving would change. Nothing is saved. */
import type { DescriptionCheckView } from "@bold-relay/api";
import {
  auditChanges,
  checkInlet,
  compareMaps,
  type Finding,
  type InletDescription,
  type NotificationDescription,
  type Profile,
  profileChange,
  reachSteps,
} from "@bold-relay/core";
import type { Router } from "express";
import { type Admitted, requireSite, requireTeam, siteCheck } from "../../auth/caller.ts";
import { mistakesIn, readText, requireJson } from "../../http-exchange/body.ts";
import { limits } from "../../platform/config/limits.ts";
import { inPieces } from "../../platform/in-pieces.ts";
import type { DescriptionKind } from "../../store/description-versions.ts";
import { findProfiles } from "../../store/model.ts";
import { findNotifications } from "../../store/notifications.ts";
import { partChanges } from "../../views/description-changes.ts";
import { isWithin } from "../../views/reach.ts";
import type { HttpDeps } from "../deps.ts";
import { namedIn } from "./description-kind.ts";
import { withoutPin } from "./inlet-pin.ts";

export function descriptionCheckRoutes(deps: HttpDeps): Router {
  const { guard, pool, board, checker, modelReload, inlets, claims, gate } = deps;

  const checks: Readonly<
    Record<DescriptionKind, (text: string, caller: Admitted, slug: string) => Promise<DescriptionCheckView>>
  > = {
    // A site may be large: it is read only where it holds nobody up.
    async site(text, caller, slug) {
      requireSite(caller, slug);
      const { version, changes, findings, reach } = await modelReload.plan(slug, { text }, caller);
      return { version, changes: changes.flatMap(partChanges), findings: [...findings], reach: [...reach] };
    },

    async profile(text, caller) {
      requireTeam(caller, "change a profile, which every site may use");
      const profile = await checker.form<Profile>("profile", text, caller);
      const known = (await findProfiles(pool)).get(profile.slug);
      return {
        version: known?.version ?? 0,
        changes: auditChanges(known?.profile ?? null, profile),
        findings: await modelReload.checkProfile(profile, caller),
        reach: known ? profileChange(known.profile, profile, board.snapshot) : [],
      };
    },

    async inlet(text, caller) {
      const inlet = await checker.form<InletDescription>("inlet", text, caller);
      siteCheck(caller, `The inlet ${inlet.slug}`).wanted(inlet.site);
      const known = inlets.get(inlet.slug)?.record;
      if (known && !isWithin(known.inlet.site, caller.sites)) return taken("An inlet", inlet.slug);
      const others = inlets.all.map(({ record }) => record.inlet);
      const { snapshot } = board;
      const reachOf = (one: InletDescription | null) => inPieces(reachSteps(snapshot, one ? [one] : []));
      return {
        version: known?.version ?? 0,
        changes: auditChanges(known ? withoutPin(known.inlet) : null, inlet),
        findings: checkInlet(inlet, snapshot, others, claims),
        reach: compareMaps(await reachOf(known?.inlet ?? null), await reachOf(inlet)),
      };
    },

    async notification(text, caller) {
      const notification = await checker.form<NotificationDescription>("notification", text, caller);
      const { slug, site, to } = notification;
      siteCheck(caller, `The notification ${slug}`).wanted(site);
      const known = (await findNotifications(pool)).find((one) => one.notification.slug === slug);
      if (known && !isWithin(known.notification.site, caller.sites)) return taken("A notification", slug);
      const problem = "topic" in to ? gate.notificationProblem(notification, to.topic) : null;
      return {
        version: known?.version ?? 0,
        changes: auditChanges(known?.notification ?? null, notification),
        findings: problem === null ? [] : [{ level: "wrong", at: "to.topic", text: problem }],
        reach: [],
      };
    },
  };

  return guard.routes({
    "POST /descriptions/:kind/:slug/check": async (req, res, caller) => {
      const { kind, slug } = namedIn(req);
      requireJson(req);
      const bytes = kind === "site" ? limits.siteBytes : limits.inletBytes;
      const text = await readText(req, { bytes, withinMs: limits.siteWithinMs });
      try {
        res.json((await checks[kind](text, caller, slug)) satisfies DescriptionCheckView);
      } catch (error) {
        const findings = mistakesIn(error);
        if (findings === null) throw error;
        res.json({ version: 0, changes: [], findings, reach: [] } satisfies DescriptionCheckView);
      }
    },
  });
}

function taken(what: string, slug: string): DescriptionCheckView {
  const finding: Finding = { level: "wrong", at: "slug", text: `${what} with the identifier ${slug} exists already` };
  return { version: 0, changes: [], findings: [finding], reach: [] };
}
