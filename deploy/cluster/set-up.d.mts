/** Types of set-up.mjs, for the cluster of demo and test, which is set up by it. */
import type { BrokerSetUp } from "../mosquitto/set-up.mjs";

export interface ClusterSecrets {
  readonly superuser: string;
  readonly replication: string;
  readonly database: string;
  readonly broker: string;
  readonly brokerAdmin: string;
  readonly secretsKey: string;
  readonly patroni: string;
  readonly vrrp: string;
}

export interface ClusterNode {
  readonly node: string;
  /** All of them; the first two have brokers. */
  readonly nodes: readonly { readonly name: string; readonly address: string }[];
  /** The one that moves between them: "10.0.0.10/24". */
  readonly address: string;
  /** The network interface that has it. */
  readonly interface: string;
  /** From where databases replicate: "10.0.0.0/24". */
  readonly network: string;
  /** Folder of etcd's and PostgreSQL's data. */
  readonly data: string;
  /** Folder of PostgreSQL's programs. */
  readonly postgres: string;
  /** Left out: whoever starts it. */
  readonly haproxyUser?: string;
  /** Of HAProxy's administration; left out: none. */
  readonly socket?: string;
  readonly secrets: ClusterSecrets;
}

export const PORTS: {
  readonly etcdPeers: number;
  readonly etcd: number;
  readonly database: number;
  readonly patroni: number;
  readonly primary: number;
  readonly broker: number;
  readonly ownBroker: number;
  readonly web: number;
  readonly instance: number;
  readonly alive: number;
};

export function newSecrets(): ClusterSecrets;

export function hasBroker(options: Pick<ClusterNode, "node" | "nodes">): boolean;

/** Writes the files of one node. `users`: more users of the brokers. */
export function setUpNode(
  options: ClusterNode & { readonly folder: string; readonly users?: BrokerSetUp["users"]; readonly plugin?: string },
): void;
