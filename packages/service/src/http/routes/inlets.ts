/** Inlets: what there are, described, checked, rehearsed and changed; and phrases said by members themselves. */
import type {
  InletDescriptionView,
  InletReply,
  InletView,
  NewSecretView,
  RehearsalBody,
  RehearsalView,
} from "@bold-relay/api";
import { patchSchema, phraseSchema } from "@bold-relay/api/schema";
import {
  type Arrival,
  checkInlet,
  checkInletKind,
  type Finding,
  type InletDescription,
  inletKinds,
  mergePatch,
  NO_ARRIVAL,
  panelReach,
  RelayError,
  topicListener,
} from "@bold-relay/core";
import type { Response, Router } from "express";
import { type Admitted, siteCheck } from "../../auth/caller.ts";
import { seal } from "../../auth/seal.ts";
import { newSecret } from "../../auth/signature.ts";
import { readBody } from "../../http-exchange/body.ts";
import { preferredWaitS } from "../../http-exchange/prefer.ts";
import { versionIfSent, versionOf } from "../../http-exchange/version.ts";
import { InletHandler, UNCOUNTED } from "../../inlets/handler.ts";
import type { RequestOrigin } from "../../inlets/inlet.ts";
import type { InletCounter } from "../../inlets/inlet-counter.ts";
import type { InletHealth } from "../../inlets/inlet-health.ts";
import type { InletInstance } from "../../inlets/registry.ts";
import { lockTopics, storedTopics } from "../../model/topic-registry.ts";
import { limits } from "../../platform/config/limits.ts";
import { rehearsalView } from "../../requests/rehearse.ts";
import { findInletRows, removeInlet, saveInletBody, saveInletSecret } from "../../store/inlets.ts";
import type { Db } from "../../store/pool.ts";
import { isWithin } from "../../views/reach.ts";
import type { HttpDeps } from "../deps.ts";
import { describedHandler, instanceOf, readDescribed } from "./inlet-instances.ts";
import { withoutPin, withPinHash } from "./inlet-pin.ts";

/** How many members' last questions are remembered: "which one?" */
const MOST_SPEAKERS = 200;

export function inletRoutes(deps: HttpDeps): Router {
  const { guard, audit, board, inlets, inletHealth, claims, requests, situationOf, inModelTurn } = deps;
  const speakers = new Map<string, InletHandler>();

  return guard.routes({
    "GET /inlets": async (_req, res, { sites }) => {
      const health = await inletHealth();
      const seen = inlets.all.filter(({ record }) => isWithin(record.inlet.site, sites));
      res.json(
        seen.map((one) => inletView(one, health.get(one.record.inlet.slug), inlets.counter)) satisfies InletView[],
      );
    },

    "GET /inlets/:slug": (req, res, caller) => {
      const { record } = instanceOf(deps, req.params.slug, caller);
      res.setHeader("etag", `"${record.version}"`);
      res.json(descriptionView(record.inlet, record.version, findingsOf(record.inlet)));
    },

    "PUT /inlets/:slug": async (req, res, caller) => {
      const described = await readDescribed<InletDescription>(deps, req, "inlet", caller);
      const { slug } = described;
      if (slug !== req.params.slug)
        throw new RelayError("bad-request", {
          why: `The inlet is ${req.params.slug} in the address and ${slug} in the body`,
        });
      await save(described, () => versionOf(req), res, caller);
    },

    "PATCH /inlets/:slug": async (req, res, caller) => {
      const { record } = instanceOf(deps, req.params.slug, caller);
      const { slug } = record.inlet;
      const patch = await readBody(req, patchSchema, { bytes: limits.inletBytes, withinMs: limits.siteWithinMs });
      const patched = JSON.stringify(mergePatch(withoutPin(record.inlet), { ...patch, slug }));
      await save(
        await deps.checker.form("inlet", patched, caller),
        () => versionOf(req) ?? record.version,
        res,
        caller,
      );
    },

    "DELETE /inlets/:slug": async (req, res, caller) => {
      const { record } = instanceOf(deps, req.params.slug, caller);
      const { slug } = record.inlet;
      await guard.change(caller, async (db) => {
        await removeInlet(db, slug, versionIfSent(req), checkOf(caller, slug));
        const before = withoutPin(record.inlet);
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
      await guard.change(caller, async (db) => {
        await saveInletSecret(db, slug, seal(secret, key), checkOf(caller, slug));
        await audit.record({ actor: caller, action: "inlet secret created", object: slug }, db);
      });
      await inlets.refresh();
      res.status(201).json({ secret } satisfies NewSecretView);
    },

    /** What an arrival would do there; nothing is sent, kept or counted. */
    "POST /inlets/:slug/rehearse": async (req, res, caller) => {
      const body = await readDescribed<RehearsalBody>(deps, req, "rehearsal", caller);
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
        ...vouchedBy(caller.asker),
        repeatKey: null,
        waitMs,
      });
      res.json({ reply, outcome, requests: [...requests] } satisfies InletReply);
    },
  });

  /** @param madeFrom asked for once it is clear that it is theirs: before that they learn nothing */
  async function save(
    described: InletDescription,
    madeFrom: () => number | null,
    res: Response,
    caller: Admitted,
  ): Promise<void> {
    const { slug } = described;
    const check = checkOf(caller, slug);
    check.wanted(described.site);
    const known = inlets.get(slug);
    const findings = findingsOf(described);
    refuseWrong(findings);
    const inlet = await withPinHash(described, known?.record.inlet);
    const filters = topicListener(inlet).flatMap((own) => own.filters);
    // One at a time, before a connection is taken: whoever stores topics waits for all others that do.
    const store = async (db: Db) => {
      if (filters.length > 0) await requireFreeTopics(db, inlet, filters);
      const saved = await saveInletBody(db, inlet, caller.name, madeFrom(), check);
      const before = known ? withoutPin(known.record.inlet) : null;
      const after = withoutPin(inlet);
      await audit.record({ actor: caller, action: "inlet changed", object: slug, before, after }, db);
      return saved;
    };
    const version = await (filters.length > 0
      ? inModelTurn(() => guard.change(caller, store))
      : guard.change(caller, store));
    await inlets.refresh();
    res.setHeader("etag", `"${version}"`);
    res.json(descriptionView(inlet, version, findings));
  }

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

  function descriptionView(inlet: InletDescription, version: number, findings: Finding[]): InletDescriptionView {
    const described = { inlet: withoutPin(inlet), version, findings };
    if (!inletKinds[inlet.kind].page) return described;
    const { switches, sees } = panelReach(inlet, board.snapshot);
    const pin = inlet.settings?.pinHash !== undefined;
    return { ...described, reach: { switches: [...switches], sees: [...sees], pin } };
  }

  /** Again, with nobody else at it: what was looked at before may have changed since. @throws RelayError inlet-wrong */
  async function requireFreeTopics(db: Db, inlet: InletDescription, filters: readonly string[]): Promise<void> {
    await lockTopics(db);
    const { snapshot, tellers, reserved } = await storedTopics(db, claims.reserved, filters);
    const others = (await findInletRows(db)).map((row) => row.inlet);
    refuseWrong(checkInletKind(inlet, snapshot, others, { tellers, reserved }));
  }

  function findingsOf(inlet: InletDescription) {
    const others = inlets.all.map(({ record }) => record.inlet);
    return checkInlet(inlet, board.snapshot, others, claims);
  }
}

/** What shows that a member is who they are. */
function vouchedBy({ keyId, session }: Admitted["asker"]): Pick<RequestOrigin, "keyId" | "session"> {
  return session === undefined ? { keyId } : { keyId, session };
}

/** @throws RelayError inlet-wrong */
function refuseWrong(findings: readonly Finding[]): void {
  const wrong = findings.filter(({ level }) => level === "wrong");
  if (wrong.length === 0) return;
  const why = wrong
    .slice(0, 10)
    .map(({ at, text }) => `${at}: ${text}`)
    .join(" ");
  throw new RelayError("inlet-wrong", { why });
}

function checkOf(caller: Admitted, slug: string) {
  return siteCheck(caller, `The inlet ${slug}`);
}

function inletView({ record }: InletInstance, health: InletHealth | undefined, counter: InletCounter): InletView {
  const lastAt = counter.lastArrivalOf(record.inlet.slug);
  const { slug, name, kind, site, paused = false, routes = [] } = record.inlet;
  return {
    slug,
    name,
    kind,
    site,
    paused,
    keys: record.keys,
    signed: record.secret !== null,
    routes: routes.length,
    up: health?.up ?? null,
    trouble: health?.trouble ?? null,
    counts: { day: counter.countsOf(slug, 24), week: counter.countsOf(slug, 168) },
    lastAt: lastAt === null ? null : new Date(lastAt).toISOString(),
    address: inletKinds[kind].place?.(record.inlet) ?? `/in/${slug}`,
  };
}
