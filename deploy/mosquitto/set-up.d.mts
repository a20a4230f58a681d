/** Types of set-up.mjs, for the servers of demo and tests, which are set up by it. */
export interface BrokerTls {
  /** PEM files. */
  readonly ca: string;
  readonly cert: string;
  readonly key: string;
  /** Only clients with a certificate of this authority. Default false. */
  readonly clients?: boolean;
}

export interface BrokerListener {
  readonly port: number;
  readonly address?: string;
  readonly tls?: BrokerTls;
}

export interface BrokerSetUp {
  readonly folder: string;
  /** Path of mosquitto_dynamic_security.so */
  readonly plugin?: string;
  readonly service: BrokerListener;
  /** Where client ids are user names; left out: there is no such listener. */
  readonly devices?: BrokerListener;
  readonly users: readonly {
    readonly name: string;
    readonly password: string;
    /** Only with this client id; left out: with any. */
    readonly clientId?: string;
    readonly rights: "service" | "admin" | readonly string[];
  }[];
  readonly persistence?: boolean;
}

/** @returns the configuration file */
export function setUpBroker(options: BrokerSetUp): string;

/** Makes what is missing of them. @param host names and addresses by which devices find the broker, the usual one first */
export function makeBrokerCertificates(folder: string, host: string | readonly string[]): BrokerTls;
