/** Phrases and inlets on the command line: what they print, and what they exit with. */
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { createPanelClient } from "@bold-relay/api";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { createWorld, type World } from "../../service/test/support/world.ts";
import { commandLine } from "./support/run.ts";

let world: World;
let folder: string;

beforeAll(async () => {
  world = await createWorld();
  await world.board("wren");
  folder = mkdtempSync(path.join(tmpdir(), "inlets-"));
});
afterAll(async () => {
  rmSync(folder, { recursive: true });
  await world.stop();
});

const run = commandLine(() => world);

describe("say", () => {
  it("does what is said, shows how it was read, and exits by what became of it", async () => {
    const { code, out } = await run("say", "hall", "light", "in", "wren", "on", "and", "path", "lights", "wren", "on");
    expect(code).toBe(0);
    expect(out).toMatch(/^hall light in wren → Hall light, Wren\npath lights wren → Path lights, Wren\n/);
    expect(out).toMatch(/Hall light, Wren → on: confirmed\. Path lights, Wren → on: confirmed\./);
    expect(out.match(/bold-relay trace /g)).toHaveLength(2);
  });

  it("says what it did not understand, and exits 1", async () => {
    expect(await run("say", "hall", "lihgt", "wren", "on")).toMatchObject({
      code: 1,
      out: expect.stringMatching(
        /^Nothing was done: “hall lihgt” is no name and no word that is known here\. Did you mean/,
      ),
    });
  });

  it("rehearses without sending", async () => {
    const { code, out } = await run("say", "everything in wren off", "--rehearse");
    expect(code).toBe(0);
    expect(out).toMatch(/^This would be sent:\n/);
    expect(out).toMatch(/off everything in Wren\n {2}Porch lantern, Wren → off {2}.*\/do {2}\{"id":"…","to":"off"\}/);
    const sent = await run("send", "porch lantern, wren", "on", "--rehearse");
    expect([sent.code, sent.out]).toEqual([
      0,
      expect.stringMatching(/^This would be sent:\non porch lantern, wren\n {2}Porch lantern, Wren → on {2}/),
    ]);
    const refused = await run("send", "porch, wren", "on", "--rehearse");
    expect([refused.code, refused.out]).toEqual([
      1,
      expect.stringMatching(/^Nothing would be sent\.\n.*\n.*Nearest: .*porch/),
    ]);
    expect((await run("say", "is the hall light in wren on?")).out).toBe("Yes. Hall light, Wren: on.\n");
  });
});

describe("inlet try and past", () => {
  it("calls it for real, and tells what past arrivals would become", async () => {
    const described = { slug: "events", name: "Events", kind: "hook", site: world.site } as const;
    const routes = [{ when: { fields: { "/type": "dusk" } }, do: { phrase: "porch lantern in wren on" } }];
    await world.client.saveInlet({ ...described, routes }, 0);
    const keyFile = path.join(folder, "key.txt");
    writeFileSync(keyFile, `${(await world.client.addKey({ name: "test", inlet: "events" })).key}\n`);
    const arrival = ["--fields", '{"type":"dusk"}'];
    expect(await run("inlet", "try", "events", ...arrival)).toMatchObject({
      code: 2,
      err: expect.stringMatching(/takes one of/),
    });
    const tried = await run("inlet", "try", "events", ...arrival, "--key-file", keyFile);
    expect(tried.code).toBe(0);
    expect(tried.out).toMatch(/^sent {2}POST \/in\/events {2}\{"type":"dusk"\}\ngot {3}200 .*confirmed/);
    expect(tried.out).toMatch(/\nbold-relay trace [0-9a-f-]{36}\nIn /);

    const file = path.join(folder, "events.yaml");
    await run("inlet", "save", "events", file);
    writeFileSync(file, readFileSync(file, "utf8").replace("porch lantern", "hall light"));
    expect((await run("inlet", "past", "events", file)).out).toMatch(
      /“\{"type":"dusk"\}”\n {2}now {4}Porch lantern, Wren → on {2}route 1\n {2}then {3}Hall light, Wren → on {2}route 1\n1 of 1 past/,
    );
    const trace = await run("trace", "last");
    expect(trace.out).toMatch(/\nAnswered after .*: “Porch lantern, Wren → on: confirmed\.”\n$/);
  });
});

describe("inlet", () => {
  it("is drafted, loaded, listed, rehearsed from a file, paused and removed", async () => {
    const file = path.join(folder, "chat.yaml");
    const draft = await run("inlet", "draft", "chat", "porch-chat", "--site", world.site, "--name", "Porch chat");
    writeFileSync(file, draft.out);
    expect(await run("inlet", "load", file, "--at", "0")).toMatchObject({
      code: 0,
      out: "Porch chat: version 1 is loaded.\n",
    });
    const listed = await run("inlet");
    expect(listed.out).toMatch(/porch-chat +chat +\S+ +1 +0 +0 +0 +never +no key, so nobody can use it/);
    writeFileSync(file, draft.out.replace("porch-room/*", "hall-room/*"));
    const arrival = ["--text", "hall light wren on", "--sender", "bo", "--room", "hall-room"];
    expect((await run("inlet", "rehearse", "porch-chat", ...arrival)).out).toMatch(/^Nothing would be sent/);
    expect((await run("inlet", "rehearse", "porch-chat", "--file", file, ...arrival)).out).toMatch(
      /^This would be sent, by route 1 \(whatever is understood\):/,
    );
    expect((await run("inlet", "pause", "porch-chat")).out).toBe("Porch chat is paused: it rejects every arrival.\n");
    const saved = path.join(folder, "saved.yaml");
    expect((await run("inlet", "save", "porch-chat", saved)).out).toMatch(/version 2 is saved to/);
    expect(readFileSync(saved, "utf8")).toMatch(/^# Porch chat, version 2\nslug: porch-chat\n[\s\S]*paused: true/);
    expect(await run("inlet", "load", file, "--at", "1")).toMatchObject({ code: 1 });
    expect((await run("inlet", "delete", "porch-chat")).code).toBe(0);
  });

  it("with mistakes is not loaded, and each is named", async () => {
    const file = path.join(folder, "wrong.yaml");
    writeFileSync(file, "slug: x\nname: X\nkind: line\nsite: null\nroutes: [{ when: { digits: a }, do: {} }]\n");
    const { code, err } = await run("inlet", "load", file);
    expect(code).toBe(2);
    expect(err).toMatch(/digits” is 1 to 12 of 0-9, \* and #.*do” holds one of phrase, ignore, target/);
    expect((await run("inlet", "draft", "pigeon", "x")).err).toMatch(/“pigeon” is no kind of inlet. Kinds: web, hook/);
  });
});

describe("inlet share", () => {
  it("makes a link of a panel that works, and says what its holder can do", async () => {
    const settings = {
      items: [
        { show: "wren/hall", name: "Hall" },
        { show: "wren/path", acts: false },
      ],
    };
    await world.client.saveInlet({ slug: "kitchen", name: "Kitchen", kind: "panel", site: world.site, settings }, 0);
    const { code, out } = await run("inlet", "share", "kitchen", "--name", "Tablet", "--days", "30");
    expect(code).toBe(0);
    expect(out).toMatch(
      /^Whoever has this link can switch: Hall\.\nWhoever has this link can see: Path lights\.\nIt expires at /,
    );
    const [, key = ""] = /\/panel\/kitchen#(brk_\S+)\n/.exec(out) ?? [];
    const panel = createPanelClient({ baseUrl: world.service.url, slug: "kitchen", key });
    expect((await panel.view()).items).toHaveLength(2);
    expect(out).toMatch(/█/);
  });

  it("of a panel with a PIN says the same without it; of anything else, that it is no panel", async () => {
    const settings = { items: [{ show: "wren/hall", name: "Hall" }], pin: "2580" };
    await world.client.saveInlet({ slug: "locked", name: "Locked", kind: "panel", site: world.site, settings }, 0);
    expect((await run("inlet", "share", "locked")).out).toMatch(
      /^Whoever has this link can switch: Hall\.\nThe PIN is asked for first\.\n/,
    );
    expect(await run("inlet", "share", "hall-tablet")).toMatchObject({
      code: 2,
      err: expect.stringContaining("Only a panel can be shared. Hall tablet is a web inlet."),
    });
  });
});

describe("inlet listen", () => {
  it("shows what arrives and makes a route from the first that no route catches", async () => {
    const routes = [{ when: { topic: "knobs/{lamp}" }, do: { ignore: true as const } }];
    await world.client.saveInlet({ slug: "knobs", name: "Knobs", kind: "topic", site: world.site, routes }, 0);
    const device = await world.listener();
    const topic = `new-${world.site}/button`;
    const target = world.address("wren/hall");
    const listening = run("inlet", "listen", "knobs", "--target", target, "--action", "on", "--name", "hall");
    const { code, out } = await whilePublishing(listening, () => device.publishAsync(topic, "1", { qos: 1 }));
    expect(code).toBe(0);
    expect(out).toMatch(/^Press the button, or send the message, that the route should catch\.\n/);
    expect(out).toContain(`${topic} 1  no route catches it`);
    expect(out).toMatch(/\nname: hall\nwhen:\n {2}topic: new-\S+\/button\ndo:\n/);
    expect(out).toMatch(/Saved as route 1 of Knobs, version 2\.\n$/);
  });

  it("saves nothing that would send nothing", async () => {
    const routes = [{ when: { topic: "dials/{lamp}" }, do: { ignore: true as const } }];
    await world.client.saveInlet({ slug: "dials", name: "Dials", kind: "topic", site: world.site, routes }, 0);
    const device = await world.listener();
    const listening = run("inlet", "listen", "dials", "--target", "wren/nothing", "--action", "on");
    const { code, err } = await whilePublishing(listening, () =>
      device.publishAsync(`new-${world.site}/dial`, "1", { qos: 1 }),
    );
    expect(code).toBe(2);
    expect(err).toContain("Not saved. The route would send nothing.");
    expect((await world.client.inlet("dials")).version).toBe(1);
  });

  it("needs both a target and an action", async () => {
    expect(await run("inlet", "listen", "hall-tablet", "--target", "wren/hall")).toMatchObject({
      code: 2,
      err: expect.stringContaining("A route needs both --target and --action."),
    });
  });
});

/** Publishes again and again until the program is done: when it listens, nobody is told. */
async function whilePublishing<Result>(program: Promise<Result>, publish: () => Promise<unknown>): Promise<Result> {
  let isOver = false;
  const done = program.finally(() => {
    isOver = true;
  });
  while (!isOver) {
    await publish();
    await Promise.race([done, new Promise((resolve) => setTimeout(resolve, 50))]);
  }
  return done;
}

describe("alerts", () => {
  it("lists what somebody should look at, and exits 1 while there is any", async () => {
    expect(await run("alerts")).toMatchObject({ code: 0, out: "No open alerts.\n" });
    await world.client.addKey({ name: "short", expiresInDays: 3 });
    while ((await world.client.alerts()).length === 0) await new Promise((resolve) => setImmediate(resolve));
    const listed = await run("alerts");
    expect(listed.code).toBe(1);
    expect(listed.out).toMatch(/^ {2}1 {2}The key “short” of Ines expires in 2 days {2}.*\n {5}Create a new key/);
    expect((await run("alerts", "assign", "1")).out).toMatch(/assigned to Ines/);
    expect((await run("alerts", "note", "1", "ask", "the", "caretaker")).out).toMatch(/“ask the caretaker”/);
    expect((await run("alerts", "snooze", "1", "--hours", "2")).out).toMatch(/snoozed until/);
    expect((await run("alerts")).code).toBe(0);
    expect((await run("alerts", "--all")).out).toMatch(/short/);
    expect((await run("alerts", "assign", "9")).err).toMatch(/There is no alert 9/);
  });
});

describe("notification", () => {
  it("is loaded, listed, signed and removed; its log says what was not taken", async () => {
    const file = path.join(folder, "desk.yaml");
    writeFileSync(
      file,
      "slug: desk\nname: Desk\nsite: null\non: { outcomes: [delivered], alerts: true }\nto: { url: 'http://127.0.0.1:9/x' }\n",
    );
    expect((await run("notification")).out).toMatch(/^No notifications yet/);
    expect((await run("notification", "load", file)).out).toBe("Desk is saved as version 1.\n");
    expect((await run("notification")).out).toMatch(
      /desk +every site +delivered, alerts +http:\/\/127.0.0.1:9\/x +not signed/,
    );
    await world.ask("wren/porch", "on");
    while ((await world.client.notificationLog("desk"))[0]?.trouble == null)
      await new Promise((resolve) => setImmediate(resolve));
    expect((await run("notification", "log", "desk")).out).toMatch(
      /bold-relay.outcome +\S+ +127.0.0.1:9 is not among the hosts.*again/,
    );
    expect((await run("notification", "delete", "desk")).out).toBe("desk is deleted.\n");
  });
});

describe("devices export and import", () => {
  it("writes a table, says what a changed one would do, and takes it on", async () => {
    const file = path.join(folder, "devices.csv");
    expect((await run("devices", "export", world.site, file)).out).toMatch(/: \d+ channels written to /);
    const text = readFileSync(file, "utf8");
    expect(text.split("\n")[0]).toBe(
      "room,room_name,device,device_name,profile,channel,channel_name,kind,index,reversed,unit",
    );
    writeFileSync(file, text.replace("Hall light", "Hall lamp"));
    const check = await run("devices", "import", world.site, file, "--check");
    expect(check).toMatchObject({ code: 0, out: expect.stringContaining('name: "Hall light" → "Hall lamp"') });
    expect((await run("devices", "import", world.site, file)).code).toBe(0);
    expect((await run("devices", "export", world.site)).out).toContain("Hall lamp");
    writeFileSync(file, "room,device\nwren,x\n");
    const wrong = await run("devices", "import", world.site, file);
    expect(wrong.code).toBe(2);
    expect(wrong.err).toContain("it has no column device_name, profile, channel, channel_name, kind");
    expect((await run("devices", "identify", `${world.site}/wren`)).out).toMatch(/ has blinked\.\n$/);
  }, 60_000);
});

describe("profile", () => {
  it("is tried with messages that were recorded, saved to a file, and loaded again", async () => {
    const file = path.join(folder, "mine.yaml");
    expect((await run("profile", "save", "reporting", file)).out).toMatch(/ is in .*mine\.yaml\.\n$/);
    writeFileSync(file, readFileSync(file, "utf8").replace("slug: reporting", "slug: mine"));
    const heard = path.join(folder, "heard.txt");
    // As the wire prints it, and as somebody types it.
    const wire = [{ event: "hello" }, { event: "message", topic: "site/board/porch/is", hex: "6f66", retained: false }];
    writeFileSync(heard, `${wire.map((one) => JSON.stringify(one)).join("\n")}\nsite/board/porch/is on\n`);
    const tried = await run("profile", "try", file, "--channel", "porch:light", "--messages", heard);
    expect(tried.code).toBe(0);
    expect(tried.out).toMatch(/^It would write:\n/);
    expect(tried.out).toMatch(/^porch +on +on +site\/board\/porch\/do +\S.* +QoS 1, expires \d+ s$/m);
    expect(tried.out).toMatch(/^It would read:$/m);
    const unknown = await run("profile", "try", "no-such");
    expect([unknown.code, unknown.err]).toEqual([1, expect.stringContaining("The profile no-such")]);
    expect((await run("profile", "try", "reporting", "--channel", "x:kettle")).err).toContain("“kettle” is not a kind");
    expect((await run("profile", "load", file)).out).toMatch(/version 1 is loaded/);
    expect((await run("profile", "list")).out).toMatch(/^mine +0 /m);
  }, 60_000);
});
