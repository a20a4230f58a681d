/** Notices: who is told of what, and the log of telling them. */
import type { NewSecretView, NoticeDeliveryView, NoticeView } from "@bold-relay/api";
import { noticeSchema } from "@bold-relay/api/schema";
import { RelayError } from "@bold-relay/core";
import type { Router } from "express";
import { type Admitted, siteCheck } from "../../auth/caller.ts";
import { seal } from "../../auth/seal.ts";
import { newSecret } from "../../auth/signature.ts";
import { readBody } from "../../http-exchange/body.ts";
import { versionOf } from "../../http-exchange/version.ts";
import { requireKnownSite } from "../../store/model.ts";
import {
  findDeliveriesOf,
  findNotices,
  type NoticeDelivery,
  type NoticeRow,
  removeNotice,
  saveNotice,
  saveNoticeSecret,
} from "../../store/notices.ts";
import { inTransaction } from "../../store/pool.ts";
import { isWithin } from "../../views/reach.ts";
import type { HttpDeps } from "../deps.ts";

const LOG_LIMIT = 100;

export function noticeRoutes({
  guard,
  audit,
  pool,
  gate,
  notices,
  config,
}: Pick<HttpDeps, "guard" | "audit" | "pool" | "gate" | "notices" | "config">): Router {
  return guard.routes({
    "GET /notices": async (_req, res, { sites }) => {
      const all = await findNotices(pool);
      res.json(all.filter(({ notice }) => isWithin(notice.site, sites)).map(noticeView) satisfies NoticeView[]);
    },

    "PUT /notices/:slug": async (req, res, caller) => {
      const notice = await readBody(req, noticeSchema);
      const { slug, site, to } = notice;
      if (slug !== req.params.slug)
        throw new RelayError("bad-request", {
          why: `The notice is ${req.params.slug} in the address and ${slug} in the body`,
        });
      const check = checkOf(caller, slug);
      check.wanted(site);
      const problem = "topic" in to ? gate.notificationProblem(notice, to.topic) : null;
      if (problem !== null) throw new RelayError("bad-request", { why: `“to.topic”: ${problem}` });
      const version = await inTransaction(pool, async (db) => {
        if (site !== null) await requireKnownSite(db, site);
        const saved = await saveNotice(db, notice, versionOf(req), check);
        const { before } = saved;
        await audit.record({ actor: caller, action: "notice changed", object: slug, before, after: notice }, db);
        return saved.version;
      });
      await notices.refresh();
      res.setHeader("etag", `"${version}"`);
      res.json({ notice, version, signed: (await existing(slug, caller)).secret !== null } satisfies NoticeView);
    },

    "DELETE /notices/:slug": async (req, res, caller) => {
      const slug = req.params.slug ?? "";
      await inTransaction(pool, async (db) => {
        const before = await removeNotice(db, slug, checkOf(caller, slug));
        await audit.record({ actor: caller, action: "notice removed", object: slug, before }, db);
      });
      await notices.refresh();
      res.status(204).end();
    },

    "POST /notices/:slug/secret": async (req, res, caller) => {
      const slug = req.params.slug ?? "";
      const { secretsKey } = config;
      const secret = newSecret();
      await inTransaction(pool, async (db) => {
        const sealed = secretsKey ? seal(secret, secretsKey) : null;
        // Whether it is theirs comes first: who may not have it learns nothing of the service either.
        if (sealed === null) await existing(slug, caller);
        if (sealed === null) throw new RelayError("no-secrets-key");
        await saveNoticeSecret(db, slug, sealed, checkOf(caller, slug));
        await audit.record({ actor: caller, action: "notice secret made", object: slug }, db);
      });
      await notices.refresh();
      res.status(201).json({ secret } satisfies NewSecretView);
    },

    "GET /notices/:slug/log": async (req, res, caller) => {
      const { notice } = await existing(req.params.slug, caller);
      const log = await findDeliveriesOf(pool, notice.slug, LOG_LIMIT);
      res.json(log.map(deliveryView) satisfies NoticeDeliveryView[]);
    },
  });

  async function existing(slug: string | undefined, caller: Admitted): Promise<NoticeRow> {
    const found = (await findNotices(pool)).find(({ notice }) => notice.slug === slug);
    if (!found || !isWithin(found.notice.site, caller.sites))
      throw new RelayError("not-found", { what: `The notice ${slug}` });
    return found;
  }
}

function checkOf(caller: Admitted, slug: string) {
  return siteCheck(caller, `The notice ${slug}`);
}

function noticeView({ notice, version, secret }: NoticeRow): NoticeView {
  return { notice, version, signed: secret !== null };
}

function deliveryView({ id, madeAt, event, tries, nextAt, deliveredAt, trouble }: NoticeDelivery): NoticeDeliveryView {
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
