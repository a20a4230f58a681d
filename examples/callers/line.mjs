#!/usr/bin/env node
/**
 * Types a phrase at a line inlet: the key first, then the phrase, then bye.
 *
 * Settings: HOST, PORT; KEY; PHRASE.
 */
import { connect } from "node:net";

const { HOST = "127.0.0.1", PORT, KEY, PHRASE } = process.env;

const line = connect(Number(PORT), HOST);
line.setTimeout(20_000, () => line.destroy(new Error("No answer within 20 s.")));
line.on("error", (error) => {
  console.error(error.message);
  process.exitCode = 1;
});
line.write([KEY, PHRASE, "bye", ""].join("\r\n"));
line.pipe(process.stdout); // until the inlet has said good-bye
