/** Several machines on one: a network namespace for each, joined by a bridge. Only root can make them. */
import { execFileSync } from "node:child_process";
import { existsSync } from "node:fs";

export interface NetworkNode {
  readonly name: string;
  /** IPv4. */
  readonly address: string;
}

const BRIDGE = "br-relay";
/** Of this machine, where clients and devices are. */
const OWN_ADDRESS = "10.77.0.1";
export const NETWORK = "10.77.0.0/24";
export const SHARED_ADDRESS = "10.77.0.10/24";
/** Of a node, inside its namespace. */
export const INTERFACE = "eth0";

export const NODES: readonly NetworkNode[] = ["north", "east", "south"].map((name, at) => ({
  name,
  address: `10.77.0.${11 + at}`,
}));

/** Why this machine can have no cluster; null: it can. */
export function namespaceProblem(): string | null {
  if (process.getuid?.() !== 0) return "only root can make network namespaces";
  try {
    ip("netns", "add", "relay-probe");
    ip("netns", "del", "relay-probe");
    return null;
  } catch (error) {
    return `this machine makes no network namespaces (${(error as Error).message.trim()})`;
  }
}

export class ClusterNetwork {
  private readonly nodes: readonly NetworkNode[];

  constructor(nodes: readonly NetworkNode[] = NODES) {
    this.nodes = nodes;
  }

  /** @throws Error when this is not root, or the machine permits no namespaces */
  open(): void {
    const problem = namespaceProblem();
    if (problem !== null) throw new Error(`There can be no cluster here: ${problem}.`);
    this.close();
    ip("link", "add", BRIDGE, "type", "bridge");
    ip("addr", "add", `${OWN_ADDRESS}/24`, "dev", BRIDGE);
    ip("link", "set", BRIDGE, "up");
    for (const { name, address } of this.nodes) {
      const space = spaceOf(name);
      ip("netns", "add", space);
      ip("link", "add", cableOf(name), "type", "veth", "peer", "name", INTERFACE, "netns", space);
      ip("link", "set", cableOf(name), "master", BRIDGE, "up");
      ip("-n", space, "addr", "add", `${address}/24`, "dev", INTERFACE);
      ip("-n", space, "link", "set", INTERFACE, "up");
      ip("-n", space, "link", "set", "lo", "up");
    }
  }

  /** Removes what is left of it, from a run that was killed too. */
  close(): void {
    for (const { name } of this.nodes) {
      for (const pid of this.processesOn(name)) tryKill(pid);
      tryIp("link", "del", cableOf(name));
      tryIp("netns", "del", spaceOf(name));
    }
    tryIp("link", "del", BRIDGE);
  }

  /** The words before a command that runs on a node. */
  on(name: string): readonly string[] {
    return ["ip", "netns", "exec", spaceOf(name)];
  }

  /** Pulls the network cable of a node: whatever runs there goes on alone. */
  unplug(name: string): void {
    ip("link", "set", cableOf(name), "down");
  }

  plug(name: string): void {
    ip("link", "set", cableOf(name), "up");
  }

  /** A node cannot reach an address any more, nor answer to it; all others can. */
  block(name: string, address: string): void {
    ip("-n", spaceOf(name), "route", "add", "blackhole", `${address}/32`);
  }

  unblock(name: string, address: string): void {
    tryIp("-n", spaceOf(name), "route", "del", "blackhole", `${address}/32`);
  }

  /** So little goes through the cable of a node, either way, and waits for so long before it is dropped. */
  slow(name: string, rate: string, waitMs: number): void {
    const limit = ["root", "tbf", "rate", rate, "burst", "8kb", "latency", `${waitMs}ms`];
    tc("qdisc", "replace", "dev", cableOf(name), ...limit);
    tc("-n", spaceOf(name), "qdisc", "replace", "dev", INTERFACE, ...limit);
  }

  unslow(name: string): void {
    tc("qdisc", "del", "dev", cableOf(name), "root");
    tc("-n", spaceOf(name), "qdisc", "del", "dev", INTERFACE, "root");
  }

  /** Who has the address now; null: nobody. */
  holderOf(address: string): string | null {
    const [plain] = address.split("/");
    const holds = ({ name }: NetworkNode) =>
      execFileSync("ip", ["-n", spaceOf(name), "-o", "-4", "addr"], { encoding: "utf8" }).includes(` ${plain}/`);
    return this.nodes.find(holds)?.name ?? null;
  }

  /** How many connections stand to a port of a node. */
  connectionsTo(name: string, port: number): number {
    const words = ["netns", "exec", spaceOf(name), "ss", "-Htn", "state", "established", `sport = :${port}`];
    return execFileSync("ip", words, { encoding: "utf8" }).split("\n").filter(Boolean).length;
  }

  /** Every process on a node. */
  processesOn(name: string): number[] {
    if (!existsSync(`/run/netns/${spaceOf(name)}`)) return [];
    const listed = execFileSync("ip", ["netns", "pids", spaceOf(name)], { encoding: "utf8" });
    return listed.split("\n").map(Number).filter(Boolean);
  }
}

function spaceOf(name: string): string {
  return `relay-${name}`;
}

/** This machine's end of a node's cable. */
function cableOf(name: string): string {
  return `rl-${name}`;
}

/** Kills a process, if it still runs. */
export function tryKill(pid: number): void {
  try {
    process.kill(pid, "SIGKILL");
  } catch {
    // It is gone by itself.
  }
}

function ip(...words: string[]): void {
  execFileSync("ip", words, { stdio: ["ignore", "ignore", "pipe"] });
}

function tc(...words: string[]): void {
  execFileSync("tc", words, { stdio: ["ignore", "ignore", "pipe"] });
}

function tryIp(...words: string[]): void {
  try {
    ip(...words);
  } catch {
    // It was not there.
  }
}
