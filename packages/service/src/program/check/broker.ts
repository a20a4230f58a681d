/** The broker: whether it lets the service in, and grants what it needs. Nothing is published to a topic of a device. */
import { randomUUID } from "node:crypto";
import type { IPublishPacket } from "mqtt-packet";
import { BrokerAdmin } from "../../broker/broker-admin.ts";
import { BrokerConnection } from "../../broker/broker-connection.ts";
import { brokerAccess } from "../../platform/config/broker-access.ts";
import type { Config } from "../../platform/config/config.ts";
import { type Finding, failure, ok, warning } from "./finding.ts";

const WITHIN_MS = 5_000;
const LARGEST_BYTES = 65_536;
const REFUSED = 128;

export async function checkBroker(config: Config): Promise<Finding[]> {
  const [service, admin] = await Promise.all([checkService(config), checkAdmin(config)]);
  return [...service, ...admin];
}

async function checkService(config: Config): Promise<Finding[]> {
  const place = new URL(config.brokerUrl).host;
  let came: (message: IPublishPacket) => void = () => {};
  const arrived = new Promise<boolean>((resolve) => {
    came = () => resolve(true);
    setTimeout(() => resolve(false), WITHIN_MS).unref();
  });
  let connection: BrokerConnection;
  try {
    const access = brokerAccess(config);
    // A client id of its own: that of the service would end the connection of the one that runs.
    const options = { access, clientId: `bold-relay-check-${randomUUID()}`, sessionExpiryS: 0 };
    connection = await BrokerConnection.connect(
      { ...options, receiveMaximum: 100, largestBytes: LARGEST_BYTES },
      { onMessage: (message) => came(message), onClose: () => {} },
    );
  } catch (error) {
    const mend = "Start the broker, or correct BOLD_RELAY_BROKER_URL, its user and password.";
    return [failure("Broker", `${place}: ${(error as Error).message}`, mend)];
  }
  try {
    const marker = `${config.brokerClientId}/marker`;
    const [own = REFUSED] = await connection.subscribe([marker], { qos: 1, newsOnly: true });
    const [all = REFUSED] = await connection.subscribe(["#"], { qos: 0, newsOnly: true });
    await connection.unsubscribe(["#"]);
    const reason = await receipt(connection, marker);
    const roundTrip = own < REFUSED && reason < REFUSED && (await arrived);
    return [
      ok("Broker", `it accepts the service at ${place}`),
      roundTrip
        ? ok("Broker rights", `a message to ${marker} came back`)
        : failure(
            "Broker rights",
            `a message to ${marker} did not come back`,
            "Let the service's user read and write it.",
          ),
      ...(all < REFUSED
        ? []
        : [
            warning(
              "Broker rights",
              "the service's user may not read all topics",
              "Let it read #, or the wire shows only some.",
            ),
          ]),
    ];
  } finally {
    await connection.close();
  }
}

/** @returns the reason code; 255: none came */
function receipt(connection: BrokerConnection, topic: string): Promise<number> {
  return new Promise((resolve) => {
    setTimeout(() => resolve(255), WITHIN_MS).unref();
    connection.publish({ topic, payload: Buffer.from("check"), qos: 1 }, resolve);
  });
}

async function checkAdmin(config: Config): Promise<Finding[]> {
  const { brokerAdminUser: username, brokerAdminPassword: password } = config;
  if (username === undefined)
    return [
      warning(
        "Broker users",
        "the service may not create any",
        "Set BOLD_RELAY_BROKER_ADMIN_USER, or create them by hand.",
      ),
    ];
  const admin = new BrokerAdmin({ ...brokerAccess(config), username, ...(password === undefined ? {} : { password }) });
  try {
    await admin.run({ command: "getDefaultACLAccess" });
    return [ok("Broker users", "the service may create them")];
  } catch (error) {
    return [
      failure("Broker users", (error as Error).message, "Correct BOLD_RELAY_BROKER_ADMIN_USER and its password."),
    ];
  } finally {
    await admin.stop();
  }
}
