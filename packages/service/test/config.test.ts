/** The environment: complete, checked, and closed to what nobody knows. */
import { expect, it } from "vitest";
import { readConfig } from "../src/index.ts";

const needed = { BOLD_RELAY_DATABASE_URL: "postgresql://127.0.0.1/x", BOLD_RELAY_BROKER_URL: "mqtt://127.0.0.1:1883" };

it("listens on loopback unless told otherwise, and is frozen", () => {
  const config = readConfig({ ...needed, PATH: "/bin" });
  expect(config).toMatchObject({ host: "127.0.0.1", port: 4180, secureCookies: false });
  expect(Object.isFrozen(config)).toBe(true);
});

it("names everything that is missing, malformed or unknown at once", () => {
  const read = () => readConfig({ BOLD_RELAY_BROKER_URL: "http://x", BOLD_RELAY_PORT: "many", BOLD_RELAY_PROT: "1" });
  for (const name of ["DATABASE_URL", "BROKER_URL", "PORT", "PROT"]) expect(read).toThrow(`BOLD_RELAY_${name}`);
});

it("leaves the command line's variables alone", () => {
  expect(() => readConfig({ ...needed, BOLD_RELAY_URL: "http://x", BOLD_RELAY_KEY: "brk_x" })).not.toThrow();
});
