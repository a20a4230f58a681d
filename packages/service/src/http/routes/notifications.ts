/** Notifications: who is told of what, and the log of telling them. */
import type { NewSecretView, NotificationDeliveryView, NotificationView } from "@bold-relay/api";
import { notificationSchema, patchSchema } from "@bold-relay/api/schema";
import { mergePatch, type NotificationDescription, publishProblem, RelayError } from "@bold-relay/core";
import type { Response, Router } from "express";
import { type Admitted, siteCheck } from "../../auth/caller.ts";
import { seal } from "../../auth/seal.ts";
import { newSecret } from "../../auth/signature.ts";
import { checked, readBody } from "../../http-exchange/body.ts";
import { versionIfSent, versionOf } from "../../http-exchange/version.ts";
import { lockTopics, storedTopics } from "../../model/topic-registry.ts";
import { requireKnownSite } from "../../store/model.ts";
import {
  findLogOf,
  findNotifications,
  type NotificationDelivery,
  type NotificationRow,
  removeNotification,
  saveNotification,
  saveNotificationSecret,
} from "../../store/notifications.ts";
import type { Db } from "../../store/pool.ts";
import { isWithin } from "../../views/reach.ts";
import type { HttpDeps } from "../deps.ts";

const LOG_LIMIT = 100;

export function notificationRoutes({
  guard,
  audit,
  pool,
  gate,
  notifications,
  config,
  claims,
  inModelTurn,
}: Pick<
  HttpDeps,
  "guard" | "audit" | "pool" | "gate" | "notifications" | "config" | "claims" | "inModelTurn"
>): Router {
  return guard.routes({
    "GET /notifications": async (_req, res, { sites }) => {
      const all = await findNotifications(pool);
      res.json(
        all
          .filter(({ notification }) => isWithin(notification.site, sites))
          .map(notificationView) satisfies NotificationView[],
      );
    },

    "PUT /notifications/:slug": async (req, res, caller) => {
      const notification = await readBody(req, notificationSchema);
      const { slug } = notification;
      if (slug !== req.params.slug)
        throw new RelayError("bad-request", {
          why: `The notification is ${req.params.slug} in the address and ${slug} in the body`,
        });
      await save(notification, () => versionOf(req), res, caller);
    },

    "PATCH /notifications/:slug": async (req, res, caller) => {
      const known = await existing(req.params.slug, caller);
      const patch = await readBody(req, patchSchema);
      const { slug } = known.notification;
      const patched = checked(notificationSchema, mergePatch(known.notification, { ...patch, slug }));
      await save(patched, () => versionOf(req) ?? known.version, res, caller);
    },

    "DELETE /notifications/:slug": async (req, res, caller) => {
      const slug = req.params.slug ?? "";
      await guard.change(caller, async (db) => {
        const before = await removeNotification(db, slug, versionIfSent(req), checkOf(caller, slug));
        await audit.record({ actor: caller, action: "notification deleted", object: slug, before }, db);
      });
      await notifications.refresh();
      res.status(204).end();
    },

    "POST /notifications/:slug/secret": async (req, res, caller) => {
      const slug = req.params.slug ?? "";
      const { secretsKey } = config;
      const secret = newSecret();
      await guard.change(caller, async (db) => {
        const sealed = secretsKey ? seal(secret, secretsKey) : null;
        // Whether it is theirs comes first: who may not have it learns nothing of the service either.
        if (sealed === null) await existing(slug, caller);
        if (sealed === null) throw new RelayError("no-secrets-key");
        await saveNotificationSecret(db, slug, sealed, checkOf(caller, slug));
        await audit.record({ actor: caller, action: "notification secret created", object: slug }, db);
      });
      await notifications.refresh();
      res.status(201).json({ secret } satisfies NewSecretView);
    },

    "GET /notifications/:slug/log": async (req, res, caller) => {
      const { notification } = await existing(req.params.slug, caller);
      const log = await findLogOf(pool, notification.slug, LOG_LIMIT);
      res.json(log.map(deliveryView) satisfies NotificationDeliveryView[]);
    },
  });

  /** @param madeFrom asked for once it is clear that it is theirs: before that they learn nothing */
  async function save(
    notification: NotificationDescription,
    madeFrom: () => number | null,
    res: Response,
    caller: Admitted,
  ): Promise<void> {
    const { slug, site, to } = notification;
    const check = checkOf(caller, slug);
    check.wanted(site);
    if ("topic" in to) refuseTopic(gate.notificationProblem(notification, to.topic));
    const store = async (db: Db) => {
      if ("topic" in to) {
        // Again, with nobody else at it: what was looked at before may have changed since.
        await lockTopics(db);
        const stored = await storedTopics(db, claims.reserved, [to.topic]);
        refuseTopic(publishProblem(stored, { by: "notification", ...notification }, to.topic));
      }
      if (site !== null) await requireKnownSite(db, site);
      const { before, version } = await saveNotification(db, notification, caller.name, madeFrom(), check);
      const after = notification;
      await audit.record({ actor: caller, action: "notification changed", object: slug, before, after }, db);
      return version;
    };
    // One at a time, before a connection is taken: whoever stores topics waits for all others that do.
    const version = await ("topic" in to
      ? inModelTurn(() => guard.change(caller, store))
      : guard.change(caller, store));
    await notifications.refresh();
    const signed = (await existing(slug, caller)).secret !== null;
    res.setHeader("etag", `"${version}"`);
    res.json({ notification, version, signed } satisfies NotificationView);
  }

  async function existing(slug: string | undefined, caller: Admitted): Promise<NotificationRow> {
    const found = (await findNotifications(pool)).find(({ notification }) => notification.slug === slug);
    if (!found || !isWithin(found.notification.site, caller.sites))
      throw new RelayError("not-found", { what: `The notification ${slug}` });
    return found;
  }
}

function checkOf(caller: Admitted, slug: string) {
  return siteCheck(caller, `The notification ${slug}`);
}

function notificationView({ notification, version, secret }: NotificationRow): NotificationView {
  return { notification, version, signed: secret !== null };
}

function deliveryView({
  id,
  madeAt,
  event,
  tries,
  nextAt,
  deliveredAt,
  trouble,
}: NotificationDelivery): NotificationDeliveryView {
  const time = (at: number | null) => (at === null ? null : new Date(at).toISOString());
  return {
    id,
    at: new Date(madeAt).toISOString(),
    event,
    tries,
    nextAt: time(nextAt),
    deliveredAt: time(deliveredAt),
    trouble,
  };
}

/** @throws RelayError bad-request */
function refuseTopic(problem: string | null): void {
  if (problem !== null) throw new RelayError("bad-request", { why: `“to.topic”: ${problem}` });
}
