/**
 * Links for people: GET shows a button, only POST acts, for whoever fetches a link to show a preview of it must not open a
 * gate. A link is signed and ends by itself; each can be revoked, and a new secret of its inlet ends them all.
 */
import type { IncomingMessage, ServerResponse } from "node:http";
import { type Arrival, NO_ARRIVAL } from "@bold-relay/core";
import { type LinkTerms, readLink } from "../auth/signature.ts";
import { callerFrom, noteAnswer, requireMethod, restOf } from "./http-words.ts";
import type { HttpKindDeps, Inlet, InletResult } from "./inlet.ts";

const WAIT_MS = 8_000;

/** @returns whether the request was for a link, and is answered */
export async function serveLink(
  req: IncomingMessage,
  res: ServerResponse,
  inlet: Inlet,
  { strange, isLinkLive }: Pick<HttpKindDeps, "strange" | "isLinkLive">,
): Promise<boolean> {
  const token = /^link\/([\w.-]{20,2000})$/.exec(restOf(req, inlet.description.slug))?.[1];
  if (token === undefined) return false;
  const terms = inlet.secret === null ? null : readLink(token, inlet.secret, Math.floor(Date.now() / 1000));
  if (!terms || !(await isLinkLive(inlet.description.slug, terms.id))) return strange(req, res);
  requireMethod(req, res, "GET, POST");
  req.resume();
  if (req.method === "GET") sendPage(res, buttonPage(inlet.description.name, terms));
  else {
    const result = await press(req, inlet, terms);
    noteAnswer(res, inlet, result);
    sendPage(res, saidPage(inlet.description.name, result.reply));
  }
  return true;
}

/** What the button of a link asks. */
export function linkArrival(phrase: string): Arrival {
  return { ...NO_ARRIVAL, text: phrase, sender: "a link", link: true };
}

function press(req: IncomingMessage, inlet: Inlet, { phrase }: LinkTerms): Promise<InletResult> {
  return inlet.hear(linkArrival(phrase), callerFrom(req, null, WAIT_MS, null));
}

function buttonPage(name: string, { phrase, until }: LinkTerms): string {
  const words = escaped(phrase);
  const end = escaped(new Date(until * 1000).toISOString().slice(0, 16).replace("T", " "));
  return page(name, `<form method="post"><button>${words}</button></form><p>Until ${end} UTC.</p>`);
}

function saidPage(name: string, reply: string): string {
  return page(name, `<p role="status">${escaped(reply)}</p>`);
}

const STYLE =
  "body{font:18px/1.5 sans-serif;margin:12vh auto;max-width:24em;padding:0 1em;color:#1a1e1d;background:#e7eae7}" +
  "button{font:inherit;font-weight:600;width:100%;padding:.9em;border:0;border-radius:3px;color:#f6f7f4;background:#00548a}" +
  "@media(prefers-color-scheme:dark){body{color:#e6eae6;background:#191d1d}button{color:#191d1d;background:#6cb4e4}}";

function page(name: string, body: string): string {
  const title = escaped(name);
  return `<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${title}</title><style>${STYLE}</style><h1>${title}</h1>${body}</html>`;
}

function sendPage(res: ServerResponse, html: string): void {
  res.writeHead(200, {
    "content-type": "text/html; charset=utf-8",
    "content-security-policy":
      "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'; frame-ancestors 'none'",
    "cache-control": "no-store",
    "referrer-policy": "no-referrer",
    "x-robots-tag": "noindex",
  });
  res.end(html);
}

const ENTITIES: Readonly<Record<string, string>> = {
  "&": "&amp;",
  "<": "&lt;",
  ">": "&gt;",
  '"': "&quot;",
  "'": "&#39;",
};

function escaped(text: string): string {
  return text.replace(/[&<>"']/g, (character) => ENTITIES[character] ?? "");
}
