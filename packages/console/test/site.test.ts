/** A site in a real browser: rooms, groups, scenes and interlocks without a shell, previewed, versioned and undone; the editor helps. */
import { fileURLToPath } from "node:url";
import type { Browser, Page } from "playwright-core";
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from "vitest";
import { createWorld, type World } from "../../service/test/support/world.ts";
import { openBrowser, openPage, textOf } from "./support/browser.ts";

let world: World;
let browser: Browser;
let page: Page;
let errors: string[];

beforeAll(async () => {
  world = await createWorld({ consoleDir: fileURLToPath(new URL("../dist", import.meta.url)) });
  await world.board("wren");
  browser = await openBrowser();
});
afterAll(async () => {
  await browser.close();
  await world.stop();
});
beforeEach(async () => {
  errors = [];
  page = await openPage(browser, errors);
  await page.setExtraHTTPHeaders({ authorization: `Bearer ${world.key}` });
});
afterEach(async () => {
  await page.close();
  // What the service refuses is noted by the browser as an error of loading. Replacing coloured text, the browser itself tries to keep
  // the colour by a style of its own, which our policy does not let it.
  const expected = /^Failed to load resource|^Applying inline style/;
  expect(errors.filter((text) => !expected.test(text))).toEqual([]);
});

const open = (path: string) => page.goto(`${world.service.url}${path}`);
const region = (name: string) => page.getByRole("region", { name, exact: true });
const described = async () => (await world.client.site(world.site)).site;

describe("a site", () => {
  it("is renamed and gets a time zone; undo brings the name back", async () => {
    const { name } = await described();
    await open("/devices");
    await region(name).getByRole("link", { name, exact: true }).click();
    await page.getByRole("button", { name: "Edit site" }).click();
    const form = page.getByRole("form", { name: `Edit ${name}` });
    await form.getByLabel("Name").fill("The Row");
    await form.getByLabel("Time zone").fill("Europe/Nowhere");
    await form.getByRole("button", { name: "Save" }).click();
    await form.getByRole("alert").getByText("no time zone").waitFor();
    await form.getByLabel("Time zone").fill("Europe/London");
    await form.getByRole("button", { name: "Preview changes" }).click();
    await form.getByText(/^changed site .*: name, timeZone$/).waitFor();
    await form.getByRole("button", { name: "Save" }).click();
    await page.getByRole("heading", { name: "The Row" }).waitFor();
    await page.getByText("Europe/London").first().waitFor();

    const versions = region("Versions");
    await versions
      .getByRole("button", { name: /^Compare version/ })
      .first()
      .click();
    await versions.getByText(`The Row → ${name}`).waitFor();
    await versions.getByRole("button", { name: "Undo last change" }).click();
    await page.getByRole("heading", { name, exact: true }).waitFor();
    expect(await described()).not.toHaveProperty("timeZone");
  });

  it("gets a room, which is renamed, moved and deleted", async () => {
    await open(`/sites/${world.site}`);
    const rooms = region("Rooms");
    await rooms.getByRole("button", { name: "Add room" }).click();
    const form = page.getByRole("form", { name: "New room" });
    await form.getByLabel("Name").fill("Boiler room");
    expect(await form.getByLabel("Identifier").inputValue()).toBe("boiler-room");
    await form.getByRole("button", { name: "Add room" }).click();
    await rooms.getByText("Boiler room").waitFor();
    await rooms.getByRole("button", { name: "Move up Boiler room" }).click();
    const before = (await described()).rooms.length;
    await expect
      .poll(async () => (await described()).rooms.findIndex(({ slug }) => slug === "boiler-room"))
      .toBe(before - 2);
    await rooms.getByRole("button", { name: "Edit room Boiler room" }).click();
    const change = page.getByRole("form", { name: "Edit Boiler room" });
    await change.getByLabel("Name").fill("Plant room");
    await change.getByRole("button", { name: "Save" }).click();
    await rooms.getByText("Plant room").waitFor();
    const row = rooms.locator('[data-part="boiler-room"]');
    await row.getByRole("button", { name: "Delete room" }).click();
    await row.getByRole("button", { name: "Delete Plant room" }).click();
    await row.waitFor({ state: "detached" });
  });

  it("gets a group and an interlock by ticking channels; deleting a group names the inlets that route to it", async () => {
    await open(`/sites/${world.site}`);
    const groups = region("Groups");
    await groups.getByRole("button", { name: "Add group" }).click();
    const form = page.getByRole("form", { name: "New group" });
    await form.getByLabel("Name").fill("Cottage lamps");
    await form.getByLabel("Porch lantern").first().click();
    await form.getByLabel("Hall light").first().click();
    await form.getByRole("button", { name: "Add group" }).click();
    await groups.getByText("Cottage lamps").waitFor();
    const target = `${world.site}/cottage-lamps`;
    const routes = [{ when: { words: "lamps off" }, do: { target, action: "off" } }];
    await world.client.saveInlet({ slug: "lamp-chat", name: "Lamp chat", kind: "chat", site: world.site, routes }, 0);
    const row = groups.locator('[data-part="cottage-lamps"]');
    await row.getByRole("button", { name: "Delete group" }).click();
    await row.getByRole("button", { name: "Delete Cottage lamps. Inlets with routes to it: lamp-chat" }).click();
    await row.waitFor({ state: "detached" });
    await world.client.removeInlet("lamp-chat");

    const interlocks = region("Interlocks");
    await interlocks.getByRole("button", { name: "Add interlock" }).click();
    const lock = page.getByRole("form", { name: "New interlock" });
    await lock.getByLabel("Name").fill("one lamp");
    await lock.getByLabel("Porch lantern").first().click();
    await lock.getByLabel("Hall light").first().click();
    await lock.getByLabel("While another one is on").selectOption("switch-off");
    await lock.getByRole("button", { name: "Add interlock" }).click();
    await interlocks.getByText("The other one is switched off first.").waitFor();
    await world.client.changeSite(world.site, { edit: "delete", part: "interlocks", name: "one lamp" }, null);
  });

  it("gets a scene of what is on now, which leaves out what nobody knows", async () => {
    await world.client.ask({ target: world.address("wren/porch"), action: "on" }, { waitS: 5 });
    await open(`/sites/${world.site}`);
    const scenes = region("Scenes");
    await scenes.getByRole("button", { name: "Add scene" }).click();
    const form = page.getByRole("form", { name: "New scene" });
    await form.getByLabel("Name").fill("As now");
    await form.getByRole("button", { name: "Capture what is on now" }).click();
    await form
      .getByRole("status")
      .getByText(/^Left out: .*its state is not known/)
      .waitFor();
    await form.getByRole("button", { name: "Add scene" }).click();
    await scenes.getByText("As now").waitFor();
    const [scene] = (await described()).scenes ?? [];
    expect(scene?.sets).toContainEqual({ channel: "wren/porch", action: "on" });
  });

  it("that somebody else changed meanwhile is not overwritten", async () => {
    await open(`/sites/${world.site}`);
    await page.getByRole("button", { name: "Edit site" }).click();
    const { name } = await described();
    const form = page.getByRole("form", { name: `Edit ${name}` });
    await form.getByLabel("Name").fill("Mine");
    await world.client.changeSite(world.site, { edit: "site", fields: { name: "Theirs" } }, null);
    await form.getByRole("button", { name: "Save" }).click();
    await form.getByRole("alert").getByText("Somebody else has changed this meanwhile").waitFor();
    expect((await described()).name).toBe("Theirs");
  });

  it("is written as YAML: completed, marked where it is wrong, saved", async () => {
    await open(`/sites/${world.site}`);
    await page.getByRole("button", { name: "Edit as YAML" }).click();
    const section = region("Site as YAML");
    const editor = section.getByLabel("Site, YAML");
    const before = await textOf(editor);
    await editor.press("Control+End");
    await editor.pressSequentially("\ninterl", { delay: 20 });
    const offer = section.getByRole("option", { name: "interlocks" });
    await offer.waitFor();
    await editor.press("Escape");
    await editor.fill(before.replace("profile: reporting", "profile: nobody"));
    await section.getByText("names the profile “nobody”, which does not exist").first().waitFor();
    await section.locator(".cm-lintRange-error").first().waitFor();
    await section.getByRole("button", { name: "Save" }).click();
    await section.getByRole("alert").getByText("nobody").waitFor();
    await editor.fill(before.replace(/^name: .*$/m, "name: Alder Row"));
    await section.getByText("→ Alder Row").waitFor();
    await section.getByRole("button", { name: "Save" }).click();
    await page.getByRole("heading", { name: "Alder Row" }).waitFor();
  });
});

describe("a channel", () => {
  it("has all its settings as fields and as YAML, which are the same", async () => {
    await open(`/devices/${world.site}/wren`);
    await page.getByRole("button", { name: "Edit channel Porch lantern" }).click();
    const section = region("Settings of Porch lantern");
    await section.getByLabel("Off by itself after (ms)").fill("60000");
    const editor = section.getByLabel("Channel, YAML");
    await expect.poll(() => textOf(editor)).toContain("autoOffMs: 60000");
    await editor.fill((await textOf(editor)).replace("name: Porch lantern", "name: Front lantern"));
    await expect.poll(() => section.getByLabel("Name", { exact: true }).inputValue()).toBe("Front lantern");
    await section.getByText("No problems found.").waitFor();
    await section.getByLabel("Off by itself after (ms)").fill("5");
    await section
      .getByText(/must be greater than or equal to 1000/)
      .first()
      .waitFor();
    await section.getByLabel("Off by itself after (ms)").fill("60000");
    await section.getByRole("button", { name: "Save" }).click();
    await page.getByRole("button", { name: "Edit channel Front lantern" }).waitFor();
    const channel = (await described()).rooms.flatMap(({ devices }) => devices).find(({ slug }) => slug === "wren")
      ?.channels[0];
    expect(channel).toMatchObject({ name: "Front lantern", delivery: { autoOffMs: 60_000 } });
  });
});
