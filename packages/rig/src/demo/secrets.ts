/** What the demo keeps between runs: ports, and the random secrets that its own parts need to find each other. */
import { randomBytes } from "node:crypto";
import { existsSync, readFileSync, writeFileSync } from "node:fs";
import { firstFree, freePort } from "../port.ts";

export interface Kept {
  readonly ports: {
    readonly database: number;
    readonly broker: number;
    /** Of the broker too: where devices connect. */
    readonly devices: number;
    readonly service: number;
    readonly control: number;
    /** Of the devices that speak no MQTT, and of the mailbox that one of them calls. */
    readonly web: number;
    readonly lines: number;
    readonly radio: number;
    readonly lamps: number;
    readonly mailbox: number;
    /** A sheet and a chat room. */
    readonly services: number;
    /** The inlet for typed lines. */
    readonly desk: number;
  };
  /** Where the service is to be whenever that port is free. */
  readonly wantedPort: number;
  readonly databasePassword: string;
  readonly brokerPassword: string;
  /** Of the user at the broker who plays the wall buttons. */
  readonly buttonsPassword: string;
  /** What the device with a mailbox shows there. */
  readonly brokerAdminPassword: string;
  readonly mailboxKey: string;
  /** Seals the secrets that the service keeps, base64. */
  readonly secretsKey: string;
  /** One for each device, by address. */
  readonly devicePasswords: Readonly<Record<string, string>>;
}

/** Where all pages say that the service is, and the inlet for typed lines. */
export const USUAL_PORT = 4180;
export const USUAL_LINE_PORT = 4188;

function randomSecret(): string {
  return randomBytes(24).toString("base64url");
}

/**
 * Reads what is kept, or makes it; ports that are taken meanwhile are changed. Readable by its owner only.
 *
 * @param port where the service must be; left out: the last one that was chosen so, else the usual one, if it is free
 * @throws Error when the port that was chosen is taken
 */
export async function keep(file: string, devices: readonly string[], port?: number): Promise<Kept> {
  const known = existsSync(file) ? (JSON.parse(readFileSync(file, "utf8")) as Kept) : null;
  const wanted = port ?? known?.wantedPort ?? USUAL_PORT;
  const service = await firstFree([wanted, ...(known ? [known.ports.service] : [])]);
  if (port !== undefined && service !== port)
    throw new Error(`Port ${port} is taken by another program. Stop that, or choose another: npm run demo -- --port N`);
  const kept: Kept = {
    ports: {
      database: await freePort(known?.ports.database),
      broker: await freePort(known?.ports.broker),
      devices: await freePort(known?.ports.devices),
      service,
      control: await freePort(known?.ports.control),
      web: await freePort(known?.ports.web),
      lines: await freePort(known?.ports.lines),
      radio: await freePort(known?.ports.radio),
      lamps: await freePort(known?.ports.lamps),
      mailbox: await freePort(known?.ports.mailbox),
      services: await freePort(known?.ports.services),
      desk: await firstFree([USUAL_LINE_PORT, ...(known ? [known.ports.desk] : [])]),
    },
    wantedPort: wanted,
    databasePassword: known?.databasePassword ?? randomSecret(),
    brokerPassword: known?.brokerPassword ?? randomSecret(),
    buttonsPassword: known?.buttonsPassword ?? randomSecret(),
    brokerAdminPassword: known?.brokerAdminPassword ?? randomSecret(),
    mailboxKey: known?.mailboxKey ?? randomSecret(),
    secretsKey: known?.secretsKey ?? randomBytes(32).toString("base64"),
    devicePasswords: Object.fromEntries(devices.map((one) => [one, known?.devicePasswords[one] ?? randomSecret()])),
  };
  writeFileSync(file, JSON.stringify(kept, null, 2), { mode: 0o600 });
  return kept;
}
