/** How a connection to the broker begins and ends: the socket, CONNECT, and reason codes in words (MQTT 5). */
import { connect as connectTcp, type Socket } from "node:net";
import { connect as connectTls } from "node:tls";
import { generate } from "mqtt-packet";
import type { BrokerAccess } from "../platform/config/broker-access.ts";

export function dial({ url, ca, cert, key }: BrokerAccess): { socket: Socket; ready: "connect" | "secureConnect" } {
  const { protocol, hostname, port } = new URL(url);
  const host = hostname.replace(/^\[|\]$/g, "");
  const secure = protocol === "mqtts:";
  const place = { host, port: Number(port || (secure ? 8883 : 1883)) };
  if (!secure) return { socket: connectTcp(place), ready: "connect" };
  const pem = { ...(ca ? { ca } : {}), ...(cert ? { cert } : {}), ...(key ? { key } : {}) };
  return { socket: connectTls({ ...place, ...pem, servername: host }), ready: "secureConnect" };
}

export function hello({ clientId, access, sessionExpiryS, receiveMaximum, largestBytes }: ConnectionOptions): Buffer {
  const { username, password } = access;
  const credentials = {
    ...(username === undefined ? {} : { username }),
    ...(password === undefined ? {} : { password: Buffer.from(password) }),
  };
  const properties = { sessionExpiryInterval: sessionExpiryS, receiveMaximum, maximumPacketSize: largestBytes };
  const packet = {
    cmd: "connect",
    clientId,
    clean: false,
    keepalive: KEEPALIVE_S,
    properties,
    ...credentials,
  } as const;
  return generate({ ...packet, protocolId: "MQTT", ...VERSION }, VERSION);
}

export function refusalWords(reason: number): string {
  const why = reason === 0x86 || reason === 0x87 ? "its user name and password do not count" : `reason ${reason}`;
  return `the broker refuses the connection: ${why}`;
}

export function goodbyeWords(reason: number): string {
  return reason === 0x8e ? "another client took over this client id" : `the broker sent reason ${reason}`;
}

export interface ConnectionOptions {
  readonly access: BrokerAccess;
  readonly clientId: string;
  /** How long the broker keeps what is meant for us while we are away, s. */
  readonly sessionExpiryS: number;
  /** How many messages the broker may send before we have acknowledged one of them (3.1.2.11.3). */
  readonly receiveMaximum: number;
  /** Larger packets are not for us: the broker keeps them, bytes. */
  readonly largestBytes: number;
}

export const KEEPALIVE_S = 15;

export const VERSION = { protocolVersion: 5 } as const;
