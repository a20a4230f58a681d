/** With `--json` every verb speaks JSON and nothing else, also where it fails; each verb that there is has its row here. */
import { execFile, spawn } from "node:child_process";
import { once } from "node:events";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { createInterface } from "node:readline";
import type { Command } from "commander";
import { afterAll, beforeAll, describe, expect, inject, it } from "vitest";
import { createWorld, type World } from "../../service/test/support/world.ts";
import { programOf } from "../src/index.ts";

const CLI = inject("cliProgram");
const folder = mkdtempSync(path.join(tmpdir(), "bold-relay-json-"));
const at = (name: string) => path.join(folder, name);

let world: World;

beforeAll(async () => {
  world = await createWorld();
  await world.board("wren");
  writeFileSync(at("hook.json"), JSON.stringify({ slug: "desk", name: "Desk", kind: "hook", site: null }));
  const night = { slug: "night", name: "Night", site: null, on: { alerts: true }, to: { topic: "night/told" } };
  writeFileSync(at("night.json"), JSON.stringify(night));
  writeFileSync(at("plan.json"), JSON.stringify({ broker: { url: "mqtt://127.0.0.1:1883" }, devices: [] }));
});
afterAll(async () => {
  await world.stop();
  rmSync(folder, { recursive: true, force: true });
});

const environment = () => ({
  PATH: process.env.PATH ?? "",
  BOLD_RELAY_URL: world.service.url,
  BOLD_RELAY_KEY: world.key,
  BOLD_RELAY_PASSWORD_FILE: world.passwordFile,
});

interface Said {
  readonly code: number;
  readonly out: string;
  readonly err: string;
}

function run(words: readonly string[]): Promise<Said> {
  return new Promise((resolve) => {
    execFile(process.execPath, [CLI, ...words], { env: environment() }, (error, out, err) => {
      resolve({ code: typeof error?.code === "number" ? error.code : 0, out, err });
    });
  });
}

/** What each verb is run with, in this order: later ones find what earlier ones made. */
const RUNS: Readonly<Record<string, () => readonly string[]>> = {
  status: () => [],
  send: () => [world.address("wren/porch"), "on"],
  say: () => ["what", "is", "on?"],
  state: () => [],
  log: () => ["--limit", "2"],
  trace: () => ["last"],
  "alerts list": () => [],
  "alerts assign": () => ["1"],
  "alerts unassign": () => ["1"],
  "alerts note": () => ["1", "a", "note"],
  "alerts resolve": () => ["1"],
  "alerts snooze": () => ["1"],
  stats: () => [],
  lock: () => [world.address("wren/hall"), "--reason", "test"],
  unlock: () => [world.address("wren/hall")],
  cancel: () => ["01a2b3c4-0000-7000-8000-000000000000", "--reason", "test"],
  map: () => ["porch lantern, wren"],
  history: () => [world.address("wren/porch")],
  "member list": () => [],
  "member add": () => ["Pilar", "--role", "reader"],
  "member roles": () => ["Pilar", "--role", "user"],
  "member reset": () => ["Pilar"],
  "member delete": () => ["Pilar"],
  "member second-factor": () => [],
  "key list": () => [],
  "key add": () => ["laptop", "--out", at("laptop.key")],
  "key revoke": () => ["999999"],
  audit: () => [],
  "cluster list": () => [],
  "cluster lead": () => ["nobody"],
  "cluster shards": () => ["1"],
  "cluster move": () => [world.site, "0"],
  "devices list": () => [world.site],
  "devices export": () => [world.site],
  "devices import": () => [world.site, at("nope.csv")],
  "devices identify": () => [`${world.site}/wren`],
  "devices move": () => [`${world.site}/wren`, "finch", "--preview"],
  "devices delete": () => [`${world.site}/wren`, "--preview"],
  "devices credentials": () => [`${world.site}/wren`],
  "devices revoke": () => [`${world.site}/wren`],
  commission: () => [`${world.site}/wren`],
  "site list": () => [],
  "site save": () => [world.site, at("site.yaml")],
  "site check": () => [at("site.yaml")],
  "site load": () => [at("site.yaml")],
  "site delete": () => ["nope"],
  "site rename": () => [world.site, "Row", "--preview"],
  "site zone": () => [world.site, "Europe/London", "--preview"],
  "room list": () => [],
  "room add": () => [world.site, "shed"],
  "room rename": () => [world.site, "shed", "Shed"],
  "room move": () => [world.site, "shed", "1", "--preview"],
  "room delete": () => [world.site, "shed"],
  "channel list": () => [],
  "channel show": () => [world.address("wren/porch")],
  "channel set": () => [world.address("wren/porch"), "name=Porch", "--preview"],
  "channel delete": () => [world.address("wren/porch"), "--preview"],
  "group list": () => [world.site],
  "group add": () => [world.site, "pair", "wren/porch", "wren/hall"],
  "group delete": () => [world.site, "pair"],
  "scene list": () => [],
  "scene add": () => [world.site, "dark", "wren/porch=off"],
  "scene capture": () => [world.site, "now", "wren/porch"],
  "scene delete": () => [world.site, "dark"],
  "interlock list": () => [],
  "interlock add": () => [world.site, "one", "wren/porch", "wren/hall", "--preview"],
  "interlock delete": () => [world.site, "one"],
  "profile list": () => [],
  "profile save": () => ["reporting", at("profile.yaml")],
  "profile load": () => [at("profile.yaml")],
  "profile delete": () => ["nope"],
  "profile try": () => ["reporting"],
  "inlet list": () => [],
  "inlet draft": () => ["chat", "porch-chat"],
  "inlet load": () => [at("hook.json")],
  "inlet save": () => ["desk"],
  "inlet pause": () => ["desk"],
  "inlet resume": () => ["desk"],
  "inlet secret": () => ["desk", "--out", at("desk.secret")],
  "inlet link": () => ["desk", world.address("wren/porch"), "on"],
  "inlet links": () => ["desk"],
  "inlet unlink": () => ["desk", "nope"],
  "inlet share": () => ["desk"],
  "inlet rehearse": () => ["desk", "--text", "on"],
  "inlet past": () => ["desk", at("hook.json")],
  "inlet try": () => ["desk", "--text", "on"],
  "inlet delete": () => ["desk"],
  "notification list": () => [],
  "notification load": () => [at("night.json")],
  "notification secret": () => ["night"],
  "notification log": () => ["night"],
  "notification delete": () => ["night"],
  save: () => [at("all")],
  check: () => [at("all")],
  load: () => [at("all")],
  versions: () => ["site", world.site],
  undo: () => ["site", world.site, "--preview"],
  "translator check": () => [at("plan.json")],
  publish: () => [`${world.site}/nobody/is`, "hello"],
  completion: () => ["bash"],
};

/** These go on until they are stopped. */
const STREAMS: Readonly<Record<string, () => readonly string[]>> = {
  watch: () => [],
  wire: () => [],
  "inlet listen": () => ["listened"],
};

function leaves(command: Command, name: string): string[] {
  if (command.commands.length === 0) return [name];
  return command.commands.flatMap((one) => leaves(one, `${name} ${one.name()}`));
}

function jsonLines(text: string): unknown[] {
  return text
    .split("\n")
    .filter((line) => line !== "")
    .map((line) => JSON.parse(line) as unknown);
}

function expectJson({ code, out, err }: Said): void {
  for (const one of jsonLines(out)) expect(one).toBeTypeOf("object");
  const errors = jsonLines(err);
  // An answer that is no success (a failed command, open alerts) has been printed; anything else is an error object.
  if (code !== 0 && out === "") expect(errors).toHaveLength(1);
  for (const error of errors)
    expect(error).toEqual(expect.objectContaining({ code: expect.any(String), title: expect.any(String) }));
}

it("has a row for each verb", async () => {
  const verbs = (await programOf()).commands.flatMap((one) => leaves(one, one.name()));
  expect([...Object.keys(RUNS), ...Object.keys(STREAMS)].sort()).toEqual(verbs.sort());
});

describe("with --json", () => {
  it.each(Object.keys(RUNS))("%s answers in JSON", async (verb) => {
    const said = await run([...verb.split(" "), ...(RUNS[verb]?.() ?? []), "--json"]);
    expectJson(said);
    expect(said.out + said.err, "it says something, or lists nothing").toMatch(/^\{|^$/);
  });

  it.each(Object.keys(RUNS))("%s fails in JSON", async (verb) => {
    const said = await run([...verb.split(" "), "nope", "nope", "nope", "--nope", "--json"]);
    expect(said.code).toBe(2);
    expect(said.out).toBe("");
    expectJson(said);
  });

  it.each(Object.keys(STREAMS))("%s streams JSON", async (verb) => {
    await world.client.saveInlet({ slug: "listened", name: "Listened", kind: "hook", site: null }, null);
    const words = [CLI, ...verb.split(" "), ...(STREAMS[verb]?.() ?? []), "--json"];
    const child = spawn(process.execPath, words, { env: environment(), stdio: ["ignore", "pipe", "inherit"] });
    const [line] = (await once(createInterface({ input: child.stdout }), "line")) as [string];
    child.kill("SIGTERM");
    await once(child, "exit");
    expect(JSON.parse(line)).toBeTypeOf("object");
  });

  it("an error has the service's code, and the nearest names", async () => {
    const { err } = await run(["send", "wren/porhc", "on", "--json"]);
    expect(JSON.parse(err)).toMatchObject({
      code: "unknown-channel",
      nearest: expect.arrayContaining([world.address("wren/porch")]),
    });
  });

  it("a file that is not there, and a service that is not there, are told in words", async () => {
    expect(JSON.parse((await run(["site", "load", at("nope.yaml"), "--json"])).err).detail).toContain("no such file");
    const { code, err } = await run(["--url", "http://127.0.0.1:1", "status", "--json"]);
    expect([code, JSON.parse(err).code]).toEqual([3, "unreachable"]);
  });
});

describe("an unknown verb", () => {
  it.each([
    [["nope"], "bold-relay has no command “nope”"],
    [["devcies", "--help"], "Nearest: bold-relay devices"],
    [["help", "nope"], "bold-relay has no command “nope”"],
    [["site", "nope", "--help"], "bold-relay site has no command “nope”"],
    [["--url", "http://127.0.0.1:1", "staus"], "Nearest: bold-relay status"],
    [["devices", "alder-rwo"], "There is no site “alder-rwo”"],
    [["plan", "folder"], "bold-relay has no command “plan”"],
  ])("%j is an error", async (words, told) => {
    const { code, out, err } = await run(words);
    expect([code, out]).toEqual([2, ""]);
    expect(err).toContain(told);
  });

  it("is none where a verb takes words of its own", async () => {
    expect((await run(["devices", world.site])).code).toBe(0);
    expect((await run(["help", "site"])).code).toBe(0);
    expect((await run(["help"])).code).toBe(0);
  });
});
