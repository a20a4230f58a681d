/** How this installation reaches its broker: address, credentials, and whose certificate is believed. */
import { readFileSync } from "node:fs";
import type { Config } from "./config.ts";

export interface BrokerAccess {
  /** mqtt:// or mqtts:// */
  readonly url: string;
  readonly username?: string;
  readonly password?: string;
  /** PEM: who signed the broker's certificate; left out: whom this machine believes. */
  readonly ca?: Buffer;
  /** PEM: our own certificate and its key, where the broker asks for one. */
  readonly cert?: Buffer;
  readonly key?: Buffer;
}

/** @throws Error that names the file which cannot be read */
export function brokerAccess(config: Config): BrokerAccess {
  const { brokerUrl, brokerUser, brokerPassword, brokerCaFile, brokerCertFile, brokerKeyFile } = config;
  return {
    url: brokerUrl,
    ...(brokerUser === undefined ? {} : { username: brokerUser }),
    ...(brokerPassword === undefined ? {} : { password: brokerPassword }),
    ...(brokerCaFile === undefined ? {} : { ca: read("BOLD_RELAY_BROKER_CA_FILE", brokerCaFile) }),
    ...(brokerCertFile === undefined ? {} : { cert: read("BOLD_RELAY_BROKER_CERT_FILE", brokerCertFile) }),
    ...(brokerKeyFile === undefined ? {} : { key: read("BOLD_RELAY_BROKER_KEY_FILE", brokerKeyFile) }),
  };
}

function read(setting: string, file: string): Buffer {
  try {
    return readFileSync(file);
  } catch (error) {
    throw new Error(`${setting}: ${file} cannot be read (${(error as NodeJS.ErrnoException).code}).`, { cause: error });
  }
}
