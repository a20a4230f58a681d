#!/usr/bin/env node
/**
 * Sets up a mosquitto 2 broker for Bold Relay: nobody comes in without a name and a password, nobody may do what is not granted,
 * users are made and taken back while it runs, and no device can take the place of another or of the service.
 *
 *   node deploy/mosquitto/set-up.mjs FOLDER --host broker.example
 *
 * writes into FOLDER, which only the broker's user should read:
 *   mosquitto.conf           what `mosquitto -c` reads
 *   dynamic-security.json    users, roles and their rights; the broker keeps it from then on
 *   certificates/            who signs, the broker's certificate and key (made with openssl, unless they are there)
 *   bold-relay.env           what goes into the service's environment, mode 0600
 *
 * What is there already stays: run it again to add what is missing. Passwords are never arguments of a program.
 */
import { execFileSync } from "node:child_process";
import { pbkdf2Sync, randomBytes } from "node:crypto";
import { chmodSync, copyFileSync, existsSync, mkdirSync, readFileSync, realpathSync, writeFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { parseArgs } from "node:util";

const PLUGIN = "/usr/lib/x86_64-linux-gnu/mosquitto_dynamic_security.so";
/** Few, because the broker is one thread and every connection costs them: passwords are 24 random bytes. */
const ITERATIONS = 1_000;
const CERTIFICATE_DAYS = 825;

/** What is not granted is refused; who may subscribe may also unsubscribe. */
const DENY_ALL = { publishClientSend: false, publishClientReceive: false, subscribe: false, unsubscribe: true };

/** The service: everything that belongs to sites, and nothing of the broker's own. */
const SERVICE_RIGHTS = [
  { acltype: "publishClientSend", topic: "$CONTROL/#", priority: 10, allow: false },
  { acltype: "publishClientSend", topic: "#", priority: 0, allow: true },
  { acltype: "publishClientReceive", topic: "#", priority: 0, allow: true },
  { acltype: "subscribePattern", topic: "#", priority: 0, allow: true },
];

/** Who makes users: the plugin's own topics, and not one of a device. */
const ADMIN_RIGHTS = [
  { acltype: "publishClientSend", topic: "$CONTROL/dynamic-security/#", priority: 0, allow: true },
  { acltype: "publishClientReceive", topic: "$CONTROL/dynamic-security/#", priority: 0, allow: true },
  { acltype: "subscribePattern", topic: "$CONTROL/dynamic-security/#", priority: 0, allow: true },
];

/**
 * Writes the broker's files.
 *
 * @param {import("./set-up.mjs").BrokerSetUp} options
 * @returns {string} the configuration file
 */
export function setUpBroker({ folder, plugin = PLUGIN, service, devices, users, persistence = true }) {
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  const file = (name) => path.join(folder, name);
  const security = file("dynamic-security.json");
  writeFileSync(security, JSON.stringify(withUsers(known(security), users), null, 1), { mode: 0o600 });
  const lines = [
    "# Made by deploy/mosquitto/set-up.mjs. See docs/how-to/install.md.",
    "per_listener_settings false",
    "allow_anonymous false",
    `plugin ${plugin}`,
    `plugin_opt_config_file ${security}`,
    "",
    "# The service. Keep it on loopback, or on a network of its own.",
    `listener ${service.port} ${service.address ?? "127.0.0.1"}`,
    ...tlsLines(service.tls),
    ...(devices
      ? [
          "",
          "# Devices. Whatever a device calls itself, its client id is its user name: it can end nobody's connection but its own.",
          `listener ${devices.port} ${devices.address ?? "0.0.0.0"}`,
          "use_username_as_clientid true",
          "max_connections 10000",
          ...tlsLines(devices.tls),
        ]
      : []),
    "",
    ...(persistence
      ? [
          "persistence true",
          `persistence_location ${folder.endsWith("/") ? folder : `${folder}/`}`,
          "autosave_interval 60",
        ]
      : []),
    "max_packet_size 262144",
    "max_inflight_messages 1000",
    "max_queued_messages 100000",
    "persistent_client_expiration 14d",
    "# Round trips of 1 ms instead of 20: Nagle's algorithm off on the broker's side too.",
    "set_tcp_nodelay true",
    "log_dest stderr",
    "log_type error",
    "log_type warning",
    "log_type notice",
    "",
  ];
  writeFileSync(file("mosquitto.conf"), lines.join("\n"), { mode: 0o600 });
  return file("mosquitto.conf");
}

/** TLS 1.2 and 1.3 (RFC 8446); with `clients` only to who shows a certificate that this authority has signed. */
function tlsLines(tls) {
  if (!tls) return [];
  const lines = [`cafile ${tls.ca}`, `certfile ${tls.cert}`, `keyfile ${tls.key}`, "tls_version tlsv1.2"];
  return tls.clients ? [...lines, "require_certificate true"] : lines;
}

function known(file) {
  if (existsSync(file)) return JSON.parse(readFileSync(file, "utf8"));
  return { defaultACLAccess: DENY_ALL, clients: [], groups: [], roles: [] };
}

/** Those that are given stand as they are given; all others stay. */
function withUsers({ clients = [], roles = [], groups = [] }, users) {
  const names = users.map(({ name }) => name);
  const made = users.map(({ name, password, clientId }) => ({
    username: name,
    ...(clientId === undefined ? {} : { clientid: clientId }),
    roles: [{ rolename: name }],
    ...hashed(password),
  }));
  const own = users.map(({ name, rights }) => ({ rolename: name, acls: aclsOf(rights) }));
  return {
    defaultACLAccess: DENY_ALL,
    clients: [...clients.filter(({ username }) => !names.includes(username)), ...made],
    groups,
    roles: [...roles.filter(({ rolename }) => !names.includes(rolename)), ...own],
  };
}

/** @param rights "service", "admin", or lines as an access list has them: "read a/+/b", "write a/b", "readwrite #" */
function aclsOf(rights) {
  if (rights === "service") return SERVICE_RIGHTS;
  if (rights === "admin") return ADMIN_RIGHTS;
  return rights.flatMap((line) => {
    const [, how, topic] = /^(read|write|readwrite) (.+)$/.exec(line) ?? [];
    const acl = (acltype) => ({ acltype, topic, priority: 0, allow: true });
    return [
      ...(how?.startsWith("read") ? [acl("publishClientReceive"), acl("subscribePattern")] : []),
      ...(how?.endsWith("write") ? [acl("publishClientSend")] : []),
    ];
  });
}

/** As the plugin keeps them: PBKDF2 (RFC 8018) with SHA-512. */
function hashed(password) {
  const salt = randomBytes(12);
  const hash = pbkdf2Sync(password, salt, ITERATIONS, 64, "sha512");
  return { password: hash.toString("base64"), salt: salt.toString("base64"), iterations: ITERATIONS };
}

/**
 * Makes an authority and the broker's certificate, with openssl; only where they are missing.
 *
 * @param {string} folder for them
 * @param {string | readonly string[]} host names and addresses by which devices find the broker, the usual one first
 * @returns {{ ca: string, cert: string, key: string }} PEM files
 */
export function makeBrokerCertificates(folder, host) {
  const hosts = [host].flat();
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  const file = (name) => path.join(folder, name);
  const files = { ca: file("ca.pem"), cert: file("broker.pem"), key: file("broker.key") };
  if (existsSync(files.cert)) return files;
  const openssl = (...words) => execFileSync("openssl", words, { stdio: ["ignore", "ignore", "pipe"] });
  const key = ["-newkey", "ec", "-pkeyopt", "ec_paramgen_curve:prime256v1", "-nodes"];
  const days = ["-days", String(CERTIFICATE_DAYS)];
  openssl(
    "req",
    "-x509",
    ...key,
    ...days,
    "-subj",
    "/CN=Bold Relay broker CA",
    "-keyout",
    file("ca.key"),
    "-out",
    files.ca,
  );
  const names = [...new Set([...hosts, "localhost", "127.0.0.1"])].map((one) =>
    /^[\d.]+$|:/.test(one) ? `IP:${one}` : `DNS:${one}`,
  );
  const alternative = `subjectAltName=${names.join(",")}`;
  openssl(
    "req",
    ...key,
    "-subj",
    `/CN=${hosts[0]}`,
    "-addext",
    alternative,
    "-keyout",
    files.key,
    "-out",
    file("broker.csr"),
  );
  const by = ["-CA", files.ca, "-CAkey", file("ca.key"), "-CAcreateserial", "-copy_extensions", "copy"];
  openssl("x509", "-req", ...days, "-in", file("broker.csr"), ...by, "-out", files.cert);
  return files;
}

const USAGE = `Usage: set-up.mjs FOLDER [--host NAME]... [--port N] [--device-port N] [--ca FILE] [--plugin FILE]
  FOLDER          gets the configuration, users and certificates; keep it for the broker's user alone
  --host NAME     a name or address by which devices reach the broker; may be repeated, the usual one first
  --port N        for the service, on loopback; default 1883
  --device-port N for devices, over TLS; default 8883
  --ca FILE       gets the certificate that devices and the service trust; default FOLDER-ca.pem
  --plugin FILE   mosquitto_dynamic_security.so; default ${PLUGIN}
`;

function main() {
  const { values, positionals } = parseArgs({
    allowPositionals: true,
    options: {
      help: { type: "boolean", short: "h", default: false },
      ca: { type: "string" },
      host: { type: "string", multiple: true, default: ["localhost"] },
      port: { type: "string", default: "1883" },
      "device-port": { type: "string", default: "8883" },
      plugin: { type: "string", default: PLUGIN },
    },
  });
  if (values.help) {
    process.stdout.write(USAGE);
    return;
  }
  const [given] = positionals;
  if (given === undefined) throw new Error("Say in which folder.");
  const folder = path.resolve(given);
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  const env = path.join(folder, "bold-relay.env");
  const before = existsSync(env) ? readFileSync(env, "utf8") : "";
  const kept = (name) => new RegExp(`^${name}=(.+)$`, "m").exec(before)?.[1] ?? randomBytes(24).toString("base64url");
  const [password, admin] = [kept("BOLD_RELAY_BROKER_PASSWORD"), kept("BOLD_RELAY_BROKER_ADMIN_PASSWORD")];
  const tls = makeBrokerCertificates(path.join(folder, "certificates"), values.host);
  const conf = setUpBroker({
    folder,
    plugin: values.plugin,
    service: { port: Number(values.port) },
    devices: { port: Number(values["device-port"]), tls },
    users: [
      { name: "bold-relay", password, rights: "service" },
      { name: "bold-relay-admin", password: admin, rights: "admin" },
    ],
  });
  const ca = path.resolve(values.ca ?? `${folder}-ca.pem`);
  // Everybody may have it: devices must trust it.
  copyFileSync(tls.ca, ca);
  chmodSync(ca, 0o644);
  const devices = `mqtts://${values.host[0]}:${values["device-port"]}`;
  const lines = [
    `BOLD_RELAY_BROKER_URL=mqtt://127.0.0.1:${values.port}`,
    "BOLD_RELAY_BROKER_USER=bold-relay",
    `BOLD_RELAY_BROKER_PASSWORD=${password}`,
    "BOLD_RELAY_BROKER_ADMIN_USER=bold-relay-admin",
    `BOLD_RELAY_BROKER_ADMIN_PASSWORD=${admin}`,
    `BOLD_RELAY_DEVICE_BROKER_URL=${devices}`,
    `BOLD_RELAY_DEVICE_BROKER_CA_FILE=${ca}`,
    "",
  ];
  writeFileSync(env, lines.join("\n"), { mode: 0o600 });
  process.stdout.write(
    `The broker is set up in ${folder}.\n` +
      `  Start it:   mosquitto -c ${conf}\n` +
      `  Service:    add the lines of ${env} to its environment\n` +
      `  Devices:    ${devices}, trusting ${ca}\n`,
  );
}

if (process.argv[1] && realpathSync(process.argv[1]) === fileURLToPath(import.meta.url)) {
  try {
    main();
  } catch (error) {
    process.stderr.write(`${error.message}\n\n${USAGE}`);
    process.exit(2);
  }
}
