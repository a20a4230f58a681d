/** The address /in/<inlet>: finds the inlet and lets its kind serve. It stands before the rest of the HTTP application. */
import type { IncomingMessage, ServerResponse } from "node:http";
import { type AuditAction, type ErrorCode, RelayError } from "@bold-relay/core";
import { bearerToken } from "../auth/token.ts";
import { requirePlainAddress } from "../http-exchange/body.ts";
import { sendProblem } from "../http-exchange/problem.ts";
import type { HttpKindDeps } from "./inlet.ts";
import { hasPanelCookie, panelCookieKey, setPanelCookie } from "./panel/cookie.ts";
import type { InletRegistry } from "./registry.ts";

export interface InletHttpDeps extends Pick<HttpKindDeps, "calls" | "log" | "isLinkLive" | "panels"> {
  readonly inlets: InletRegistry;
  /** The id of a key of this inlet; null: it is none. Cached, so that a call costs no query. */
  readonly keyOf: (key: string, slug: string, connection: object) => Promise<number | null>;
  /** Whether the service is behind TLS. */
  readonly secure: boolean;
  /** The seconds to wait when this address has shown too many wrong keys. */
  readonly countWrongKey: (req: IncomingMessage) => Promise<number | null>;
  /**
   * Puts on record that a caller was told to wait, and why.
   *
   * @param slug the identifier of the inlet, as the address has it
   * @param keyId the key of the inlet that was shown; null: none, or a signature or link that needs none
   */
  readonly noteRefusal: (req: IncomingMessage, action: AuditAction, slug: string, keyId: number | null) => void;
  readonly asError: (error: unknown) => RelayError;
}

/** Errors that say how long to wait. */
const WAITS: ReadonlySet<ErrorCode> = new Set<ErrorCode>(["too-many-attempts", "rate-exceeded"]);

/** What is in the audit log of a caller who is known to the inlet, by the code of the refusal. */
const REFUSALS: Partial<Record<ErrorCode, AuditAction>> = {
  "too-many-attempts": "PINs slowed down",
  "rate-exceeded": "rate limit exceeded",
  "too-many-streams": "stream refused",
};

const PATH = /^\/in\/([a-z0-9-]{1,40})(?=[/?]|$)/;

/** @returns whether the request was for an inlet, and is being answered */
export function createInletHttpHandler(deps: InletHttpDeps): (req: IncomingMessage, res: ServerResponse) => boolean {
  return (req, res) => {
    if (!req.url?.startsWith("/in/")) return false;
    serve(req, res, deps).catch((error: unknown) => {
      req.resume();
      const known = deps.asError(error);
      if (WAITS.has(known.code)) res.setHeader("retry-after", Number(known.facts.seconds ?? 1));
      sendProblem(res, known);
    });
    return true;
  };
}

async function serve(req: IncomingMessage, res: ServerResponse, deps: InletHttpDeps): Promise<void> {
  const { inlets, calls, log, isLinkLive, panels, secure } = deps;
  requirePlainAddress(req.url ?? "");
  const slug = PATH.exec(req.url ?? "")?.[1] ?? "";
  let isStrange = false;
  let keyId: number | null = null;
  // Who shows no key learns nothing, not even which inlets there are.
  const strange = async (): Promise<never> => {
    isStrange = true;
    // The cookie would be shown with every call, and each would count as a wrong key.
    if (req.headers.authorization === undefined && hasPanelCookie(req, secure))
      res.setHeader("set-cookie", setPanelCookie(slug, null, secure));
    const seconds = await deps.countWrongKey(req);
    if (seconds === null) throw new RelayError("wrong-key");
    deps.noteRefusal(req, "keys slowed down", slug, null);
    throw new RelayError("too-many-attempts", { seconds });
  };
  const instance = inlets.get(slug) ?? (await inlets.find(slug));
  const kind = instance && inlets.kindOf(instance.inlet);
  if (!instance || !kind) return strange();
  const shown = () => bearerToken(req.headers.authorization) ?? (kind.takesCookie ? panelCookieKey(req, secure) : null);
  const keepKey = () => {
    const token = shown();
    if (token !== null) res.setHeader("set-cookie", setPanelCookie(slug, token, secure));
  };
  const keyOf = async () => {
    const token = shown();
    keyId = (token === null ? null : await deps.keyOf(token, slug, req.socket)) ?? (await strange());
    // A cookie lasts for so long from the last reading call, not from the first.
    if (req.headers.authorization === undefined && req.method === "GET") keepKey();
    return keyId;
  };
  const stillThere = async () => {
    const now = inlets.get(slug)?.inlet;
    const token = shown();
    if (!now || token === null || (await deps.keyOf(token, slug, req.socket)) === null)
      throw new RelayError("wrong-key");
    if (now.description.paused) throw new RelayError("inlet-paused", { inlet: now.description.name });
    return now;
  };
  const noteRefusal = (code: ErrorCode) => {
    const action = REFUSALS[code];
    if (action !== undefined) deps.noteRefusal(req, action, slug, keyId);
  };
  const given = { keyOf, keepKey, strange, stillThere, noteRefusal, isLinkLive, panels, calls, log };
  try {
    await kind.serve(req, res, instance.inlet, given);
  } catch (error) {
    if (!isStrange && error instanceof RelayError) noteRefusal(error.code);
    throw error;
  }
}
