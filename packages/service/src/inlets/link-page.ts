/**
 * Links for people: GET shows a button, only POST acts, for whoever fetches a link to show a preview of it must not open a gate. A link is
 * signed and ends by itself; each can be revoked, and a new secret of its inlet ends them all. Its token stands behind the "#", which no
 * server and no proxy sees: the page shows it as a bearer (RFC 6750). Links of older versions have it in the path.
 */
import type { IncomingMessage, ServerResponse } from "node:http";
import { type Arrival, NO_ARRIVAL } from "@bold-relay/core";
import { type LinkTerms, readLink } from "../auth/signature.ts";
import { callerFrom, noteAnswer, requireMethod, restOf, sendJson } from "./http-words.ts";
import type { HttpKindDeps, Inlet, InletResult } from "./inlet.ts";

const WAIT_MS = 8_000;

/** @returns whether the request was for a link, and is answered */
export async function serveLink(
  req: IncomingMessage,
  res: ServerResponse,
  inlet: Inlet,
  { strange, isLinkLive }: Pick<HttpKindDeps, "strange" | "isLinkLive">,
): Promise<boolean> {
  const rest = restOf(req, inlet.description.slug);
  if (rest !== "link" && !rest.startsWith("link/")) return false;
  if (servePage(req, res, inlet.description.slug, rest)) return true;
  const inPath = /^link\/([\w.-]{20,2000})$/.exec(rest)?.[1];
  const token = inPath ?? /^Bearer ([\w.-]{20,2000})$/.exec(req.headers.authorization ?? "")?.[1] ?? "";
  const terms = inlet.secret === null ? null : readLink(token, inlet.secret, Math.floor(Date.now() / 1000));
  if (!terms || !(await isLinkLive(inlet.description.slug, terms.id))) return strange(req, res);
  requireMethod(req, res, "GET, POST");
  req.resume();
  const { name } = inlet.description;
  const { phrase, until } = terms;
  if (req.method === "GET") {
    if (inPath === undefined) sendJson(res, 200, { name, phrase, until: new Date(until * 1000).toISOString() });
    else sendHtml(res, buttonPage(name, terms));
    return true;
  }
  const result = await press(req, inlet, terms);
  noteAnswer(res, inlet, result);
  if (inPath === undefined) sendJson(res, 200, { reply: result.reply });
  else sendHtml(res, saidPage(name, result.reply));
  return true;
}

/** What is the same for every link, and says nothing of the inlet. @returns whether it was asked for, and is sent */
function servePage({ method, headers }: IncomingMessage, res: ServerResponse, slug: string, rest: string): boolean {
  if (method !== "GET" || headers.authorization !== undefined) return false;
  if (rest === "link") sendHtml(res, linkPage(slug));
  else if (rest === "link/press.js") send(res, "text/javascript; charset=utf-8", PRESS_SCRIPT);
  else return false;
  return true;
}

/** What the button of a link asks. */
export function linkArrival(phrase: string): Arrival {
  return { ...NO_ARRIVAL, text: phrase, sender: "a link", link: true };
}

function press(req: IncomingMessage, inlet: Inlet, { phrase }: LinkTerms): Promise<InletResult> {
  return inlet.hear(linkArrival(phrase), callerFrom(req, null, WAIT_MS));
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

/** Reads the token from its own address, shows the button, and presses it. */
const PRESS_SCRIPT = `const token = location.hash.slice(1);
// One for each page: pressing again after a lost answer acts once.
const repeatKey = Array.from(crypto.getRandomValues(new Uint8Array(16)), (byte) => byte.toString(16).padStart(2, "0")).join("");
const status = document.querySelector("[role=status]");
const button = document.querySelector("button");
const call = async (method) => {
  const headers = { authorization: "Bearer " + token, "idempotency-key": repeatKey };
  const answer = await fetch(location.pathname, { method, headers, cache: "no-store" }).catch(() => {
    throw new Error(method === "GET" ? "No answer from the service." : "No answer from the service. It is not known whether the request arrived. Press again: it acts once.");
  });
  const body = await answer.json();
  if (!answer.ok) throw new Error(answer.status === 401 ? "This link is not valid any more." : body.detail);
  return body;
};
const failed = (error) => { status.textContent = error.message; };
call("GET").then(({ name, phrase, until }) => {
  document.title = name;
  document.querySelector("h1").textContent = name;
  button.textContent = phrase;
  button.hidden = false;
  status.textContent = "Until " + new Date(until).toLocaleString() + ".";
}).catch(failed);
button.addEventListener("click", () => {
  button.disabled = true;
  status.textContent = "Sending";
  call("POST").then(({ reply }) => { status.textContent = reply; button.hidden = true; })
    .catch((error) => { button.disabled = false; failed(error); });
});
addEventListener("hashchange", () => location.reload());
`;

function linkPage(slug: string): string {
  const parts = `<button hidden></button><p role="status"></p><noscript><p>This page needs JavaScript.</p></noscript>`;
  return page("Link", `${parts}<script src="/in/${slug}/link/press.js" defer></script>`);
}

function sendHtml(res: ServerResponse, html: string): void {
  send(res, "text/html; charset=utf-8", html);
}

function send(res: ServerResponse, type: string, text: string): void {
  res.writeHead(200, {
    "content-type": type,
    "content-security-policy":
      "default-src 'none'; script-src 'self'; connect-src 'self'; style-src 'unsafe-inline'; form-action 'self'; frame-ancestors 'none'",
    "cache-control": "no-store",
    "referrer-policy": "no-referrer",
    "x-robots-tag": "noindex",
  });
  res.end(text);
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
