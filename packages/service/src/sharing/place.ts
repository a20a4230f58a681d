/**
 * Where a request is answered: sites are spread over shards, and several instances may lead. What is about a site goes to the leader of
 * its shard, so that whoever writes reads what was written. What one instance keeps in memory for everybody goes to the leader of the
 * first shard. The rest is answered where it arrives. Pure.
 */

export type Place =
  | { readonly at: "here" }
  | { readonly at: "first" }
  | { readonly at: "site"; readonly site: string }
  | { readonly at: "inlet"; readonly inlet: string }
  /** Where its lanes are, while it is open. */
  | { readonly at: "request"; readonly request: string };

const HERE: Place = { at: "here" };
const FIRST: Place = { at: "first" };

const API = "/api/v1/";
const INLET = /^\/in\/([a-z0-9-]{1,40})(?=[/?]|$)/;
const OF_SITE = /^(?:sites|channels|devices)\/([^/?]+)/;
const OF_REQUEST = /^requests\/([0-9a-f-]{36})(?=[/?]|$)/;
const OF_WIRE = /^wire\?(?:[^#]*&)?filter=([a-z0-9-]+)(?:%2[fF]|\/)/;
/** What is read from the database or the board, and what is decided where it arrives. */
const ANYWHERE: readonly RegExp[] = [
  /^GET (?:board|live|sites|requests|requests\.[a-z]+|devices|profiles|map|wire|openapi\.json|schemas)(?=[/?]|$)/,
  /^POST (?:requests|requests\/rehearse|phrases|lockouts)(?=[?]|$)/,
  /^POST lockouts\/[^/?]+\/release$/,
];

/** @example placeOf("PUT", "/api/v1/sites/alder-row/description") // → { at: "site", site: "alder-row" } */
export function placeOf(method: string, url: string): Place {
  const inlet = INLET.exec(url)?.[1];
  if (inlet !== undefined) return { at: "inlet", inlet };
  if (!url.startsWith(API)) return HERE;
  const path = url.slice(API.length);
  const site = OF_SITE.exec(path)?.[1];
  if (site !== undefined) return { at: "site", site };
  // What an instance writes itself is seen there only.
  const watched = OF_WIRE.exec(path)?.[1];
  if (watched !== undefined && method === "GET") return { at: "site", site: watched };
  const request = OF_REQUEST.exec(path)?.[1];
  if (request !== undefined) return { at: "request", request };
  return ANYWHERE.some((one) => one.test(`${method} ${path}`)) ? HERE : FIRST;
}
