/** Everything that can be set, with defaults and units. Read from the environment by main.ts, checked and frozen here. */
import Joi from "joi";
import proxyAddr from "proxy-addr";
import { FAILPOINTS, type Failpoint } from "../failpoint.ts";
import { type CallRule, callList, type ListenRule, listenList } from "./places.ts";

export interface Config {
  /** PostgreSQL connection URI. BOLD_RELAY_DATABASE_URL */
  readonly databaseUrl: string;
  /** mqtt:// or mqtts:// URI of the broker. BOLD_RELAY_BROKER_URL */
  readonly brokerUrl: string;
  /** BOLD_RELAY_BROKER_USER */
  readonly brokerUser: string | undefined;
  /** BOLD_RELAY_BROKER_PASSWORD */
  readonly brokerPassword: string | undefined;
  /** File with the certificate of whoever signed the broker's, PEM. BOLD_RELAY_BROKER_CA_FILE, default whom the machine believes */
  readonly brokerCaFile: string | undefined;
  /** File with our own certificate, PEM, where the broker asks for one. BOLD_RELAY_BROKER_CERT_FILE */
  readonly brokerCertFile: string | undefined;
  /** File with its key, PEM. BOLD_RELAY_BROKER_KEY_FILE */
  readonly brokerKeyFile: string | undefined;
  /**
   * Plan of devices that speak no MQTT and are reached from here: their translators then run in this process. File, YAML or
   * JSON. BOLD_RELAY_TRANSLATE, default none
   */
  readonly translateFile: string | undefined;
  /** A user at the broker who may make others, by its dynamic security plugin. BOLD_RELAY_BROKER_ADMIN_USER */
  readonly brokerAdminUser: string | undefined;
  /** BOLD_RELAY_BROKER_ADMIN_PASSWORD */
  readonly brokerAdminPassword: string | undefined;
  /** Addresses of every broker that may be in use, where that user makes others; none: only the one of `brokerUrl`. BOLD_RELAY_BROKER_ADMIN_URLS */
  readonly brokerAdminUrls: readonly string[];
  /** Where devices reach the broker: shown with their users. BOLD_RELAY_DEVICE_BROKER_URL, default none */
  readonly deviceBrokerUrl: string | undefined;
  /** File with the certificate that devices must trust there, PEM. BOLD_RELAY_DEVICE_BROKER_CA_FILE, default none */
  readonly deviceBrokerCaFile: string | undefined;
  /**
   * The fixed client id of this installation's connection, the same for all of its instances: who connects with it
   * ends the connection of whoever held the lanes before. BOLD_RELAY_BROKER_CLIENT_ID, default bold-relay-shard-0
   */
  readonly brokerClientId: string;
  /** The name of this instance among others on the same database. BOLD_RELAY_INSTANCE, default host name and port */
  readonly instance: string | undefined;
  /** Where the other instances reach this one. BOLD_RELAY_ADVERTISE, default the address that it listens on */
  readonly advertise: string | undefined;
  /** How long another instance waits before it takes over from one that is silent, ms. BOLD_RELAY_LEASE_MS, default 3000 */
  readonly leaseMs: number;
  /**
   * Addresses and networks whose X-Forwarded-For is believed: the reverse proxy and the other instances.
   * BOLD_RELAY_TRUSTED_PROXIES, comma-separated, default none
   */
  readonly trustedProxies: readonly string[];
  /** Address to listen on. Loopback unless told otherwise. BOLD_RELAY_HOST, default 127.0.0.1 */
  readonly host: string;
  /** TCP port, 0 for any free one. BOLD_RELAY_PORT, default 4180 */
  readonly port: number;
  /** trace, debug, info, warn, error, fatal or silent. BOLD_RELAY_LOG_LEVEL, default info */
  readonly logLevel: string;
  /** Folder of the built console; without it only the API is served. BOLD_RELAY_CONSOLE_DIR */
  readonly consoleDir: string | undefined;
  /** Session cookies only travel over HTTPS. Set it behind a TLS proxy. BOLD_RELAY_SECURE_COOKIES, default false */
  readonly secureCookies: boolean;
  /** How long history is kept, days; undefined: for good. It goes by whole months. BOLD_RELAY_KEEP_DAYS */
  readonly keepDays: number | undefined;
  /** IANA time zone in which days begin and end in statistics. BOLD_RELAY_ZONE, default the machine's */
  readonly zone: string;
  /**
   * The database was restored from a backup: what is open in it ends without being sent, and overdue deadlines do
   * not fire. For the first start only. BOLD_RELAY_RESTORED, default false
   */
  readonly restored: boolean;
  /**
   * Seals what has to be read back, like the secrets of signatures: 32 random bytes in base64. Without it inlets cannot
   * check signatures. BOLD_RELAY_SECRETS_KEY
   */
  readonly secretsKey: Buffer | undefined;
  /**
   * Hosts that the service itself may call, for sheets, replies and notifications: host:port each. A name must have a public
   * address; for one in a network of your own write host:port=network. BOLD_RELAY_MAY_CALL, comma-separated, default none
   */
  readonly mayCall: readonly CallRule[];
  /**
   * Where line inlets may listen: address:port or address:first-last each. BOLD_RELAY_MAY_LISTEN, comma-separated, default none
   */
  readonly mayListen: readonly ListenRule[];
  /** For tests only: the process dies at this place, see failpoint.ts. BOLD_RELAY_FAILPOINT */
  readonly failpoint: Failpoint | undefined;
}

const settings = {
  BOLD_RELAY_DATABASE_URL: Joi.string()
    .uri({ scheme: ["postgres", "postgresql"] })
    .required()
    .description("PostgreSQL connection URI."),
  BOLD_RELAY_BROKER_URL: Joi.string()
    .uri({ scheme: ["mqtt", "mqtts"] })
    .required()
    .description("URI of the MQTT broker: `mqtt://` or `mqtts://`."),
  BOLD_RELAY_BROKER_USER: Joi.string().description(
    "The service's own user at the broker. It must read and write the topics of its sites and `<client id>/marker`. To show all messages on the wire, it must read `#`.",
  ),
  BOLD_RELAY_BROKER_PASSWORD: Joi.string().description("The password of that user."),
  BOLD_RELAY_BROKER_CA_FILE: Joi.string().description(
    "With `mqtts://`: PEM file with the certificate of the authority that signed the broker's. Default: the authorities that the machine trusts.",
  ),
  BOLD_RELAY_BROKER_CERT_FILE: Joi.string().description(
    "PEM file with the service's own certificate, if the broker asks for one.",
  ),
  BOLD_RELAY_BROKER_KEY_FILE: Joi.string().description("PEM file with the key of that certificate."),
  BOLD_RELAY_TRANSLATE: Joi.string().description(
    "File with a plan of translators (YAML or JSON). The leading instance runs them in its own process.",
  ),
  BOLD_RELAY_BROKER_ADMIN_USER: Joi.string().description(
    "A user at the broker who may create users, at a mosquitto broker with the dynamic security plugin. The service then creates the users of devices.",
  ),
  BOLD_RELAY_BROKER_ADMIN_PASSWORD: Joi.string().description("The password of that user."),
  BOLD_RELAY_BROKER_ADMIN_URLS: Joi.string()
    .custom(brokerList)
    .default([])
    .description(
      "With several brokers of which one is in use: the address of each, separated by commas. The users of devices are created at all of them. Default: the broker's URI.",
    ),
  BOLD_RELAY_DEVICE_BROKER_URL: Joi.string()
    .uri({ scheme: ["mqtt", "mqtts"] })
    .description("Address at which devices reach the broker. It is shown with the broker user of a device."),
  BOLD_RELAY_DEVICE_BROKER_CA_FILE: Joi.string().description(
    "PEM file with the certificate that devices must trust at that address. It is shown with the broker user of a device.",
  ),
  BOLD_RELAY_BROKER_CLIENT_ID: Joi.string()
    .max(128)
    .default("bold-relay-shard-0")
    .description(
      "MQTT client id. All instances of one installation have the same. Two installations on one broker need different ones.",
    ),
  BOLD_RELAY_INSTANCE: Joi.string()
    .max(128)
    .description(
      "Name of this instance. No two instances of one installation have the same. Default: host name and port.",
    ),
  BOLD_RELAY_ADVERTISE: Joi.string()
    .uri({ scheme: ["http"] })
    .description(
      "`http://` address at which the other instances reach this one. Default: the address that it listens on.",
    ),
  BOLD_RELAY_LEASE_MS: Joi.number()
    .integer()
    .min(200)
    .max(60_000)
    .default(3_000)
    .description("How long the other instances wait for a silent leader before one of them takes over, in ms."),
  BOLD_RELAY_TRUSTED_PROXIES: Joi.string()
    .custom(proxyList)
    .default([])
    .description(
      "Addresses and networks whose `X-Forwarded-For` is trusted, separated by commas: the TLS proxy and the other instances.",
    ),
  BOLD_RELAY_HOST: Joi.string().hostname().default("127.0.0.1").description("Address to listen on."),
  BOLD_RELAY_PORT: Joi.number().port().allow(0).default(4180).description("TCP port to listen on. 0: any free port."),
  BOLD_RELAY_LOG_LEVEL: Joi.valid("trace", "debug", "info", "warn", "error", "fatal", "silent")
    .default("info")
    .description("Least level that is written to the log."),
  BOLD_RELAY_CONSOLE_DIR: Joi.string().description(
    "Folder with the built console. Default: the one that was built with the service.",
  ),
  BOLD_RELAY_SECURE_COOKIES: Joi.boolean()
    .default(false)
    .description("Send session cookies over HTTPS only. Set it to `true` behind a TLS proxy."),
  BOLD_RELAY_KEEP_DAYS: Joi.number()
    .integer()
    .min(7)
    .max(36_500)
    .description("How long history is kept, in days. Whole months are deleted. Default: for ever."),
  BOLD_RELAY_ZONE: Joi.string()
    .custom(zoneName)
    .default(() => new Intl.DateTimeFormat().resolvedOptions().timeZone)
    .description("IANA time zone in which the days of statistics begin and end. Default: the machine's zone."),
  BOLD_RELAY_RESTORED: Joi.boolean()
    .default(false)
    .description(
      "Set it to `true` for the first start on a restored backup: open commands end unanswered and are not sent, overdue deadlines do not fire.",
    ),
  BOLD_RELAY_SECRETS_KEY: Joi.string()
    .custom(secretsKey)
    .description(
      "32 random bytes in base64. It encrypts secrets of signatures and links. Without it, inlets cannot have secrets. Keep it with the backups.",
    ),
  BOLD_RELAY_MAY_CALL: Joi.string()
    .custom(callList)
    .default([])
    .description(
      "`host:port` of each service that the service may call by itself, separated by commas: sheets, replies of chats, notifications. A name must resolve to public addresses. For a private network add it: `panel.example:8080=192.0.2.0/24`.",
    ),
  BOLD_RELAY_MAY_LISTEN: Joi.string()
    .custom(listenList)
    .default([])
    .description(
      "`address:port` or `address:first-last` where line inlets may listen, separated by commas. Without it, no line inlet opens.",
    ),
  BOLD_RELAY_FAILPOINT: Joi.valid(...FAILPOINTS).description("For tests only."),
};
const schema = Joi.object(settings).and("BOLD_RELAY_BROKER_CERT_FILE", "BOLD_RELAY_BROKER_KEY_FILE");

/** The name of every setting. */
export const CONFIG_NAMES: readonly string[] = Object.keys(settings);

/** What the reference says of each setting: its form, default and meaning, as the schema describes itself. */
export const configDescription = (): Joi.Description => schema.describe();

/** Those of the command line, and of the script that makes the database, may stand in the same environment. */
const OTHERS_VARIABLES = new Set(["BOLD_RELAY_URL", "BOLD_RELAY_KEY", "BOLD_RELAY_DATABASE_PASSWORD"]);

/**
 * Checks the environment and freezes what it says.
 *
 * @throws Error that names every variable that is missing, malformed or unknown
 */
export function readConfig(environment: Record<string, string | undefined>): Config {
  const ours = Object.entries(environment).filter(
    ([name]) => name.startsWith("BOLD_RELAY_") && !OTHERS_VARIABLES.has(name),
  );
  const { value, error } = schema.validate(Object.fromEntries(ours), { abortEarly: false });
  if (error) throw new Error(`The environment is not right: ${error.details.map((one) => one.message).join("; ")}.`);
  return Object.freeze({
    databaseUrl: value.BOLD_RELAY_DATABASE_URL,
    brokerUrl: value.BOLD_RELAY_BROKER_URL,
    brokerUser: value.BOLD_RELAY_BROKER_USER,
    brokerPassword: value.BOLD_RELAY_BROKER_PASSWORD,
    brokerCaFile: value.BOLD_RELAY_BROKER_CA_FILE,
    brokerCertFile: value.BOLD_RELAY_BROKER_CERT_FILE,
    brokerKeyFile: value.BOLD_RELAY_BROKER_KEY_FILE,
    translateFile: value.BOLD_RELAY_TRANSLATE,
    brokerAdminUser: value.BOLD_RELAY_BROKER_ADMIN_USER,
    brokerAdminPassword: value.BOLD_RELAY_BROKER_ADMIN_PASSWORD,
    brokerAdminUrls: value.BOLD_RELAY_BROKER_ADMIN_URLS,
    deviceBrokerUrl: value.BOLD_RELAY_DEVICE_BROKER_URL,
    deviceBrokerCaFile: value.BOLD_RELAY_DEVICE_BROKER_CA_FILE,
    brokerClientId: value.BOLD_RELAY_BROKER_CLIENT_ID,
    instance: value.BOLD_RELAY_INSTANCE,
    advertise: value.BOLD_RELAY_ADVERTISE,
    leaseMs: value.BOLD_RELAY_LEASE_MS,
    trustedProxies: value.BOLD_RELAY_TRUSTED_PROXIES,
    host: value.BOLD_RELAY_HOST,
    port: value.BOLD_RELAY_PORT,
    logLevel: value.BOLD_RELAY_LOG_LEVEL,
    consoleDir: value.BOLD_RELAY_CONSOLE_DIR,
    secureCookies: value.BOLD_RELAY_SECURE_COOKIES,
    keepDays: value.BOLD_RELAY_KEEP_DAYS,
    zone: value.BOLD_RELAY_ZONE,
    restored: value.BOLD_RELAY_RESTORED,
    secretsKey: value.BOLD_RELAY_SECRETS_KEY,
    mayCall: value.BOLD_RELAY_MAY_CALL,
    mayListen: value.BOLD_RELAY_MAY_LISTEN,
    failpoint: value.BOLD_RELAY_FAILPOINT,
  });
}

/** @throws when one of them is neither an address nor a network */
function proxyList(text: string): string[] {
  const proxies = text.split(",").map((one) => one.trim());
  proxyAddr.compile(proxies);
  return proxies;
}

/** @throws when one of them is no address of a broker */
function brokerList(text: string): string[] {
  const urls = text.split(",").map((one) => one.trim());
  for (const url of urls)
    if (!/^mqtts?:$/.test(new URL(url).protocol)) throw new Error("it must begin with mqtt:// or mqtts://");
  return urls;
}

/** @throws when there is no such zone */
function zoneName(text: string): string {
  // Told back as it is written: some have older names that they resolve to.
  new Intl.DateTimeFormat("en", { timeZone: text });
  return text;
}

/** @throws when it is not 32 bytes */
function secretsKey(text: string): Buffer {
  const key = Buffer.from(text, "base64");
  if (key.length !== 32) throw new Error("it must be 32 bytes in base64");
  return key;
}
