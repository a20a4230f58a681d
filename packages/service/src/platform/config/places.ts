/** Places that the configuration names: what the service may call by itself, and where its inlets may listen. */
import ipaddr from "ipaddr.js";

/** What may be called: one host at one port. */
export interface CallRule {
  /** A name or an address, in small letters. */
  readonly host: string;
  readonly port: number;
  /** The network in which its address must lie, "192.0.2.0/24"; null: see `isMeant`. */
  readonly network: string | null;
}

/** @throws when one of them is no host with a port */
export function callList(text: string): CallRule[] {
  return text.split(",").map((one) => {
    const found = /^([a-z0-9.-]+|\[[0-9a-f:.]+\]):(\d{1,5})(?:=(\S+))?$/.exec(one.trim().toLowerCase());
    if (!found) throw new Error(`${one.trim()} is not host:port, or host:port=network`);
    const [, host = "", port, network = null] = found;
    if (network !== null && !ipaddr.isValidCIDR(network)) throw new Error(`${network} is no network like 192.0.2.0/24`);
    return { host: host.replace(/^\[|\]$/g, ""), port: Number(port), network };
  });
}

/** Where somebody may listen: an address, and ports of it. */
export interface ListenRule {
  readonly address: string;
  readonly first: number;
  readonly last: number;
}

/** @throws when one of them is no address with ports */
export function listenList(text: string): ListenRule[] {
  return text.split(",").map((one) => {
    const found = /^(.+):(\d{1,5})(?:-(\d{1,5}))?$/.exec(one.trim());
    const address = (found?.[1] ?? "").replace(/^\[|\]$/g, "");
    if (!found || !ipaddr.isValid(address)) throw new Error(`${one.trim()} is not address:port, or address:first-last`);
    const first = Number(found[2]);
    return { address, first, last: Number(found[3] ?? first) };
  });
}

/** Whether the configuration lets somebody listen there. */
export function mayListenAt(rules: readonly ListenRule[], address: string, port: number): boolean {
  return rules.some((rule) => rule.address === address && rule.first <= port && port <= rule.last);
}
