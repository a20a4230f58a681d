/** Which verbs a command line loads: its own, so that a shell need not wait for the others. */
import { expect, it } from "vitest";
import { programOf } from "../src/program.ts";
import { ALL_VERBS, verbsFor } from "../src/verbs.ts";

it.each([
  [["status"], ["status"]],
  [["--url", "http://relay.test", "--json", "log", "send"], ["log"]],
  [["--url=http://relay.test", "trace", "last"], ["trace"]],
  [["completion", "--addresses", "channels"], ["completion"]],
  [["--version"], []],
  [["-V"], []],
])("%j needs %j", (words, verbs) => {
  expect(verbsFor(words)).toEqual(verbs);
});

it.each([
  [[]],
  [["--help"]],
  [["help", "status"]],
  [["statsu"]],
  [["completion", "fish"]],
  [["constructor"]],
  [["--url"]],
])("%j needs all of them, to say which there are", (words) => {
  expect(verbsFor(words)).toEqual(ALL_VERBS);
});

it("every verb has the name under which it is loaded", async () => {
  expect((await programOf()).commands.map((command) => command.name())).toEqual(ALL_VERBS);
});
