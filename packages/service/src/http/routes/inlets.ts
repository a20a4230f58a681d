/** Inlets: what there are, described, checked, rehearsed and changed; and phrases said by members themselves. */
import type {
  InletDescriptionView,
  InletReply,
  InletView,
  LinkRecordView,
  LinkView,
  NewSecretView,
  RehearsalBody,
  RehearsalView,
} from "@bold-relay/api";
import { linkSchema, phraseSchema } from "@bold-relay/api/schema";
import {
  type Arrival,
  checkInlet,
  type InletDescription,
  inletKinds,
  isUuid,
  NO_ARRIVAL,
  RelayError,
} from "@bold-relay/core";
import type { Router } from "express";
import { type Admitted, siteCheck } from "../../auth/caller.ts";
import { hashPassword } from "../../auth/password.ts";
import { seal } from "../../auth/seal.ts";
import { newSecret, signLink } from "../../auth/signature.ts";
import { readBody } from "../../http-exchange/body.ts";
import { preferredWaitS } from "../../http-exchange/prefer.ts";
import { versionOf } from "../../http-exchange/version.ts";
import { InletHandler, UNCOUNTED } from "../../inlets/handler.ts";
import type { InletCounter } from "../../inlets/inlet-counter.ts";
import { linkArrival } from "../../inlets/link-page.ts";
import type { InletInstance } from "../../inlets/registry.ts";
import { newId } from "../../platform/id.ts";
import { rehearsalView } from "../../requests/rehearse.ts";
import { findLinks, type InletLink, revokeLink, saveLink } from "../../store/inlet-links.ts";
import { removeInlet, saveInletBody, saveInletSecret } from "../../store/inlets.ts";
import { inTransaction } from "../../store/pool.ts";
import { isWithin } from "../../views/reach.ts";
import type { HttpDeps } from "../deps.ts";
import { describedHandler, instanceOf, readDescribed } from "./inlet-instances.ts";

/** How many members' last questions are remembered: "which one?" */
const MOST_SPEAKERS = 200;
const MOST_LINKS = 200;

export function inletRoutes(deps: HttpDeps): Router {
  const { guard, audit, pool, clock, board, inlets, notifications, requests, situationOf } = deps;
  const speakers = new Map<string, InletHandler>();

  return guard.routes({
    "GET /inlets": (_req, res, { sites }) => {
      const seen = inlets.all.filter(({ record }) => isWithin(record.inlet.site, sites));
      res.json(seen.map((instance) => inletView(instance, inlets.counter)) satisfies InletView[]);
    },

    "GET /inlets/:slug": (req, res, caller) => {
      const { record } = instanceOf(deps, req.params.slug, caller);
      res.setHeader("etag", `"${record.version}"`);
      res.json({
        inlet: shown(record.inlet),
        version: record.version,
        findings: findingsOf(record.inlet),
      } satisfies InletDescriptionView);
    },

    "PUT /inlets/:slug": async (req, res, caller) => {
      const described = await readDescribed<InletDescription>(deps, req, "inlet");
      const { slug } = described;
      if (slug !== req.params.slug)
        throw new RelayError("bad-request", {
          why: `The inlet is ${req.params.slug} in the address and ${slug} in the body`,
        });
      const check = checkOf(caller, slug);
      check.wanted(described.site);
      const known = inlets.get(slug);
      const findings = findingsOf(described);
      const wrong = findings.filter(({ level }) => level === "wrong");
      if (wrong.length > 0)
        throw new RelayError("inlet-wrong", {
          why: wrong
            .slice(0, 10)
            .map(({ at, text }) => `${at}: ${text}`)
            .join(" "),
        });
      const inlet = await sealed(described, known?.record.inlet);
      const version = await inTransaction(pool, async (db) => {
        const saved = await saveInletBody(db, inlet, versionOf(req), check);
        const before = known ? shown(known.record.inlet) : null;
        await audit.record({ actor: caller, action: "inlet changed", object: slug, before, after: shown(inlet) }, db);
        return saved;
      });
      await inlets.refresh();
      res.setHeader("etag", `"${version}"`);
      res.json({ inlet: shown(inlet), version, findings } satisfies InletDescriptionView);
    },

    "DELETE /inlets/:slug": async (req, res, caller) => {
      const { record } = instanceOf(deps, req.params.slug, caller);
      const { slug } = record.inlet;
      await inTransaction(pool, async (db) => {
        await removeInlet(db, slug, checkOf(caller, slug));
        const before = shown(record.inlet);
        await audit.record({ actor: caller, action: "inlet deleted", object: slug, before }, db);
      });
      await inlets.refresh();
      res.status(204).end();
    },

    /** A new secret for signatures; the one before ends at once. */
    "POST /inlets/:slug/secret": async (req, res, caller) => {
      const { slug } = instanceOf(deps, req.params.slug, caller).record.inlet;
      const key = inlets.secretsKey;
      if (!key) throw new RelayError("no-secrets-key");
      const secret = newSecret();
      await inTransaction(pool, async (db) => {
        await saveInletSecret(db, slug, seal(secret, key), checkOf(caller, slug));
        await audit.record({ actor: caller, action: "inlet secret created", object: slug }, db);
      });
      await inlets.refresh();
      res.status(201).json({ secret } satisfies NewSecretView);
    },

    /** The links that count, newest first; never the links themselves. */
    "GET /inlets/:slug/links": async (req, res, caller) => {
      const { record } = instanceOf(deps, req.params.slug, caller);
      res.json((await findLinks(pool, record.inlet.slug, MOST_LINKS)).map(linkRecordView) satisfies LinkRecordView[]);
    },

    /** A link for people, signed with the inlet's secret. What it would do must be clear now. */
    "POST /inlets/:slug/links": async (req, res, caller) => {
      const { record, inlet, handler } = instanceOf(deps, req.params.slug, caller);
      const { phrase, hours = 24 } = await readBody(req, linkSchema);
      const { slug, name, kind } = record.inlet;
      if (inletKinds[kind].proof !== "key or signature")
        throw new RelayError("bad-request", {
          why: `An inlet of the kind ${kind} takes no signatures, so it has no links`,
        });
      if (inlet.secret === null)
        throw new RelayError("bad-request", { why: `${name} has no secret to sign with: make one first` });
      const { understood, reply, refusal } = handler.rehearse(linkArrival(phrase));
      if (refusal) throw refusal;
      if (!("asks" in understood)) throw new RelayError("not-understood", { why: reply, nearest: [] });
      const id = newId();
      const until = Math.floor(clock.now() / 1000 + hours * 3_600);
      const token = signLink({ phrase, until, id }, inlet.secret);
      await inTransaction(pool, async (db) => {
        await saveLink(db, slug, caller.memberId, { id, phrase, madeBy: caller.name, until: until * 1000 });
        const after = { phrase, until: new Date(until * 1000).toISOString() };
        await audit.record({ actor: caller, action: "link created", object: slug, after }, db);
      });
      const path = `/in/${slug}/link/${token}`;
      res.status(201).json({ id, path, until: new Date(until * 1000).toISOString() } satisfies LinkView);
    },

    /** Ends one link at once. */
    "DELETE /inlets/:slug/links/:id": async (req, res, caller) => {
      const { slug } = instanceOf(deps, req.params.slug, caller).record.inlet;
      const { id = "" } = req.params;
      await inTransaction(pool, async (db) => {
        const phrase = isUuid(id) ? await revokeLink(db, slug, id) : null;
        if (phrase === null) throw new RelayError("not-found", { what: "A link with this id" });
        await audit.record({ actor: caller, action: "link revoked", object: slug, before: { phrase } }, db);
      });
      res.status(204).end();
    },

    /** What an arrival would do there; nothing is sent, kept or counted. */
    "POST /inlets/:slug/rehearse": async (req, res, caller) => {
      const body = await readDescribed<RehearsalBody>(deps, req, "rehearsal");
      const handler = rehearsed(body, req.params.slug, caller);
      res.json(told(handler, body.arrival));
    },

    /** A phrase of the caller's own; with `rehearse` only what it would do. */
    "POST /phrases": async (req, res, caller) => {
      const { text, rehearse } = await readBody(req, phraseSchema);
      const handler = speakerOf(caller);
      const arrival = { ...NO_ARRIVAL, text, sender: caller.name };
      if (rehearse) return void res.json(told(handler, arrival));
      const waitMs = preferredWaitS(req.headers.prefer) * 1000;
      const { reply, outcome, requests } = await handler.hear(arrival, {
        keyId: caller.keyId,
        repeatKey: null,
        waitMs,
      });
      res.json({ reply, outcome, requests: [...requests] } satisfies InletReply);
    },
  });

  function told(handler: InletHandler, arrival: Partial<Arrival>): RehearsalView {
    const rehearsal = handler.rehearse({ ...NO_ARRIVAL, ...arrival });
    const view = rehearsalView(rehearsal, { board, situationOf });
    const name = view.route === null ? undefined : handler.description.routes?.[view.route - 1]?.name;
    return { ...view, routeName: name ?? null, findings: findingsOf(handler.description) };
  }

  /** The inlet as it is, or as it is described in the body and not saved yet. */
  function rehearsed({ inlet }: RehearsalBody, slug: string | undefined, caller: Admitted): InletHandler {
    return inlet === undefined ? instanceOf(deps, slug, caller).handler : describedHandler(deps, inlet, caller);
  }

  function speakerOf({ memberId, name, asker, sites }: Admitted): InletHandler {
    const key = `${asker.inlet} ${memberId} ${JSON.stringify(sites)}`;
    const description: InletDescription = { slug: asker.inlet, name, kind: "line", site: null };
    const speaker = speakers.get(key) ?? new InletHandler(description, requests, UNCOUNTED, { sites, memberId });
    if (speakers.size >= MOST_SPEAKERS) speakers.clear();
    speakers.set(key, speaker);
    return speaker;
  }

  function findingsOf(inlet: InletDescription) {
    const others = inlets.all.map(({ record }) => record.inlet);
    return checkInlet(inlet, board.snapshot, others, notifications.tellers);
  }
}

/** A PIN is never kept as it is; one that is not given anew stays. */
async function sealed(inlet: InletDescription, before: InletDescription | undefined): Promise<InletDescription> {
  const { pin, pinHash: _, ...settings } = (inlet.settings ?? {}) as Record<string, unknown>;
  const kept = before?.settings?.pinHash;
  if (kept !== undefined && pin === undefined && before?.site !== inlet.site)
    throw new RelayError("bad-request", { why: "A PIN does not move to another site with its inlet: give a new one" });
  const pinHash = typeof pin === "string" ? await hashPassword(pin) : kept;
  if (pinHash === undefined) return inlet.settings === undefined ? inlet : { ...inlet, settings };
  return { ...inlet, settings: { ...settings, pinHash } };
}

function checkOf(caller: Admitted, slug: string) {
  return siteCheck(caller, `The inlet ${slug}`);
}

function linkRecordView({ madeAt, until, ...link }: InletLink): LinkRecordView {
  return { ...link, madeAt: new Date(madeAt).toISOString(), until: new Date(until).toISOString() };
}

function shown(inlet: InletDescription): InletDescription {
  if (inlet.settings?.pinHash === undefined) return inlet;
  const { pinHash: _, ...settings } = inlet.settings;
  return { ...inlet, settings };
}

function inletView({ record, own }: InletInstance, counter: InletCounter): InletView {
  const lastAt = counter.lastArrivalOf(record.inlet.slug);
  const { slug, name, kind, site, paused = false, routes = [], settings = {} } = record.inlet;
  return {
    slug,
    name,
    kind,
    site,
    paused,
    keys: record.keys,
    signed: record.secret !== null,
    routes: routes.length,
    up: own?.health.up ?? null,
    trouble: own?.health.trouble ?? null,
    counts: { day: counter.countsOf(slug, 24), week: counter.countsOf(slug, 168) },
    lastAt: lastAt === null ? null : new Date(lastAt).toISOString(),
    address:
      kind === "line"
        ? `${settings.host ?? "127.0.0.1"}:${settings.port}`
        : kind === "topic"
          ? "its topics"
          : `/in/${slug}`,
  };
}
