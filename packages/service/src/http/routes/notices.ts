/** Notices: who is told of what, and the log of telling them. */
import type { NewSecretView, NoticeDeliveryView, NoticeView } from "@bold-relay/api";
import { noticeSchema } from "@bold-relay/api/schema";
import { covers, RelayError } from "@bold-relay/core";
import type { Router } from "express";
import type { Admitted } from "../../auth/identify.ts";
import { seal } from "../../auth/seal.ts";
import { newSecret } from "../../auth/signature.ts";
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
import { saveAudit } from "../../store/team.ts";
import { isWithin } from "../../view/reach.ts";
import { readBody } from "../body.ts";
import type { HttpParts } from "../parts.ts";
import { guardedRouter, requireScope } from "../permissions.ts";
import { versionOf } from "../version.ts";

const LOG_LIMIT = 100;

export function noticeRoutes({ pool, board, notices, config }: HttpParts): Router {
  return guardedRouter(pool, {
    "GET /notices": async (_req, res, { sites }) => {
      const all = await findNotices(pool);
      res.json(all.filter(({ notice }) => isWithin(notice.site, sites)).map(noticeView) satisfies NoticeView[]);
    },

    "PUT /notices/:slug": async (req, res, caller) => {
      const notice = await readBody(req, noticeSchema);
      if (notice.slug !== req.params.slug)
        throw new RelayError("bad-request", {
          why: `The notice is ${req.params.slug} in the address and ${notice.slug} in the body`,
        });
      requireScope(notice.site, caller, "a notice");
      const { to } = notice;
      const own = "topic" in to ? board.snapshot.doFilters.find((filter) => covers(filter, to.topic)) : undefined;
      if (own !== undefined)
        throw new RelayError("bad-request", { why: `“to.topic” is a command topic: devices would obey what is told` });
      const version = await inTransaction(pool, async (db) => {
        const saved = await saveNotice(db, notice, versionOf(req));
        await saveAudit(db, {
          actor: caller.name,
          action: "notice changed",
          object: notice.slug,
          before: null,
          after: notice,
        });
        return saved;
      });
      await notices.refresh();
      res.setHeader("etag", `"${version}"`);
      res.json({ notice, version, signed: (await existing(notice.slug, caller)).secret !== null } satisfies NoticeView);
    },

    "DELETE /notices/:slug": async (req, res, caller) => {
      const { notice } = await existing(req.params.slug, caller);
      await removeNotice(pool, notice.slug);
      await saveAudit(pool, {
        actor: caller.name,
        action: "notice removed",
        object: notice.slug,
        before: notice,
        after: null,
      });
      await notices.refresh();
      res.status(204).end();
    },

    "POST /notices/:slug/secret": async (req, res, caller) => {
      const { notice } = await existing(req.params.slug, caller);
      if (!config.secretsKey) throw new RelayError("no-secrets-key");
      const secret = newSecret();
      await saveNoticeSecret(pool, notice.slug, seal(secret, config.secretsKey));
      await saveAudit(pool, {
        actor: caller.name,
        action: "notice secret made",
        object: notice.slug,
        before: null,
        after: null,
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
