/** Inlets: what there are, described, checked, rehearsed and changed; and phrases said by members themselves. */
import type {
  InletDescriptionView,
  InletReply,
  InletView,
  LinkView,
  NewSecretView,
  RehearsalBody,
  RehearsalView,
} from "@bold-relay/api";
import { inletSchema, linkSchema, phraseSchema, rehearsalSchema } from "@bold-relay/api/schema";
import { type Arrival, checkInlet, type InletDescription, NO_ARRIVAL, RelayError } from "@bold-relay/core";
import type { Router } from "express";
import type { Admitted } from "../../auth/identify.ts";
import { hashPassword } from "../../auth/password.ts";
import { seal } from "../../auth/seal.ts";
import { newSecret, signLink } from "../../auth/signature.ts";
import { limits } from "../../config/config.ts";
import { newId } from "../../id.ts";
import type { Room } from "../../inlets/house.ts";
import type { InletCounter } from "../../inlets/inlet-counter.ts";
import { Reception, UNCOUNTED } from "../../inlets/reception.ts";
import { removeInlet, saveInletBody, saveInletSecret } from "../../store/inlets.ts";
import { inTransaction } from "../../store/pool.ts";
import { saveAudit } from "../../store/team.ts";
import { isWithin } from "../../view/reach.ts";
import { rehearsalView } from "../../view/rehearsal.ts";
import { readBody } from "../body.ts";
import type { HttpParts } from "../parts.ts";
import { guardedRouter, requireScope } from "../permissions.ts";
import { preferredWaitS } from "../prefer.ts";
import { versionOf } from "../version.ts";
import { describedReception, roomOf } from "./inlet-rooms.ts";

/** How many members' last questions are remembered: "which one?" */
const MOST_SPEAKERS = 200;

export function inletRoutes(parts: HttpParts): Router {
  const { pool, clock, board, house, desk, situationOf } = parts;
  const speakers = new Map<string, Reception>();

  return guardedRouter(pool, {
    "GET /inlets": (_req, res, { sites }) => {
      const seen = house.all.filter(({ record }) => isWithin(record.inlet.site, sites));
      res.json(seen.map((room) => inletView(room, house.counter)) satisfies InletView[]);
    },

    "GET /inlets/:slug": (req, res, caller) => {
      const { record } = roomOf(parts, req.params.slug, caller);
      res.setHeader("etag", `"${record.version}"`);
      res.json({
        inlet: shown(record.inlet),
        version: record.version,
        findings: findingsOf(record.inlet),
      } satisfies InletDescriptionView);
    },

    "PUT /inlets/:slug": async (req, res, caller) => {
      const described = await readBody(req, inletSchema, { bytes: limits.siteBytes, withinMs: limits.siteWithinMs });
      if (described.slug !== req.params.slug)
        throw new RelayError("bad-request", {
          why: `The inlet is ${req.params.slug} in the address and ${described.slug} in the body`,
        });
      requireScope(described.site, caller, "an inlet");
      const known = house.get(described.slug);
      if (known) requireScope(known.record.inlet.site, caller, "an inlet");
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
        const saved = await saveInletBody(db, inlet, versionOf(req));
        const before = known ? shown(known.record.inlet) : null;
        await saveAudit(db, {
          actor: caller.name,
          action: "inlet changed",
          object: inlet.slug,
          before,
          after: shown(inlet),
        });
        return saved;
      });
      await house.refresh();
      res.setHeader("etag", `"${version}"`);
      res.json({ inlet: shown(inlet), version, findings } satisfies InletDescriptionView);
    },

    "DELETE /inlets/:slug": async (req, res, caller) => {
      const { record } = roomOf(parts, req.params.slug, caller);
      await inTransaction(pool, async (db) => {
        await removeInlet(db, record.inlet.slug);
        const before = shown(record.inlet);
        await saveAudit(db, {
          actor: caller.name,
          action: "inlet removed",
          object: record.inlet.slug,
          before,
          after: null,
        });
      });
      await house.refresh();
      res.status(204).end();
    },

    /** A new secret for signatures; the one before ends at once. */
    "POST /inlets/:slug/secret": async (req, res, caller) => {
      const { record } = roomOf(parts, req.params.slug, caller);
      const key = house.secretsKey;
      if (!key) throw new RelayError("no-secrets-key");
      const secret = newSecret();
      await inTransaction(pool, async (db) => {
        await saveInletSecret(db, record.inlet.slug, seal(secret, key));
        await saveAudit(db, {
          actor: caller.name,
          action: "inlet secret made",
          object: record.inlet.slug,
          before: null,
          after: null,
        });
      });
      await house.refresh();
      res.status(201).json({ secret } satisfies NewSecretView);
    },

    /** A link for people, signed with the inlet's secret. What it would do must be clear now. */
    "POST /inlets/:slug/links": async (req, res, caller) => {
      const { record, inlet, reception } = roomOf(parts, req.params.slug, caller);
      const { phrase, hours = 24 } = await readBody(req, linkSchema);
      if (record.inlet.kind !== "hook")
        throw new RelayError("bad-request", { why: "Links belong to inlets of the kind hook" });
      if (inlet.secret === null)
        throw new RelayError("bad-request", { why: `${record.inlet.name} has no secret to sign with: make one first` });
      const { understood, reply } = reception.rehearse({ ...NO_ARRIVAL, text: phrase, sender: "a link" });
      if (!("asks" in understood)) throw new RelayError("not-understood", { why: reply, nearest: [] });
      const until = Math.floor(clock.now() / 1000 + hours * 3_600);
      const token = signLink({ phrase, until, id: newId() }, inlet.secret);
      const after = { phrase, until: new Date(until * 1000).toISOString() };
      await saveAudit(pool, {
        actor: caller.name,
        action: "link made",
        object: record.inlet.slug,
        before: null,
        after,
      });
      res.status(201).json({ path: `/in/${record.inlet.slug}/link/${token}`, until: after.until } satisfies LinkView);
    },

    /** What an arrival would do there; nothing is sent, kept or counted. */
    "POST /inlets/:slug/rehearse": async (req, res, caller) => {
      const body = await readBody(req, rehearsalSchema, { bytes: limits.siteBytes, withinMs: limits.siteWithinMs });
      const reception = rehearsed(body, req.params.slug, caller);
      res.json(told(reception, body.arrival));
    },

    /** A phrase of the caller's own; with `rehearse` only what it would do. */
    "POST /phrases": async (req, res, caller) => {
      const { text, rehearse } = await readBody(req, phraseSchema);
      const reception = speakerOf(caller);
      const arrival = { ...NO_ARRIVAL, text, sender: caller.name };
      if (rehearse) return void res.json(told(reception, arrival));
      const waitMs = preferredWaitS(req.headers.prefer) * 1000;
      const { reply, outcome, requests } = await reception.hear(arrival, {
        keyId: caller.keyId,
        repeatKey: null,
        waitMs,
      });
      res.json({ reply, outcome, requests: [...requests] } satisfies InletReply);
    },
  });

  function told(reception: Reception, arrival: Partial<Arrival>): RehearsalView {
    const rehearsal = reception.rehearse({ ...NO_ARRIVAL, ...arrival });
    const view = rehearsalView(rehearsal, { board, situationOf });
    const name = view.route === null ? undefined : reception.description.routes?.[view.route - 1]?.name;
    return { ...view, routeName: name ?? null, findings: findingsOf(reception.description) };
  }

  /** The inlet as it is, or as it is described in the body and not saved yet. */
  function rehearsed({ inlet }: RehearsalBody, slug: string | undefined, caller: Admitted): Reception {
    return inlet === undefined ? roomOf(parts, slug, caller).reception : describedReception(parts, inlet, caller);
  }

  function speakerOf({ name, asker, sites }: Admitted): Reception {
    const key = `${asker.inlet} ${name} ${JSON.stringify(sites)}`;
    const description: InletDescription = { slug: asker.inlet, name, kind: "line", site: null };
    const speaker = speakers.get(key) ?? new Reception(description, desk, UNCOUNTED, sites);
    if (speakers.size >= MOST_SPEAKERS) speakers.clear();
    speakers.set(key, speaker);
    return speaker;
  }

  function findingsOf(inlet: InletDescription) {
    const others = house.all.map(({ record }) => record.inlet);
    return checkInlet(inlet, board.snapshot, others);
  }
}

/** A PIN is never kept as it is; one that is not given anew stays. */
async function sealed(inlet: InletDescription, before: InletDescription | undefined): Promise<InletDescription> {
  const { pin, pinHash: _, ...settings } = (inlet.settings ?? {}) as Record<string, unknown>;
  const kept = before?.settings?.pinHash;
  const pinHash = typeof pin === "string" ? await hashPassword(pin) : kept;
  if (pinHash === undefined) return inlet.settings === undefined ? inlet : { ...inlet, settings };
  return { ...inlet, settings: { ...settings, pinHash } };
}

function shown(inlet: InletDescription): InletDescription {
  if (inlet.settings?.pinHash === undefined) return inlet;
  const { pinHash: _, ...settings } = inlet.settings;
  return { ...inlet, settings };
}

function inletView({ record, own }: Room, counter: InletCounter): InletView {
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
