/** Adding a device, proving it, and looking at the wire, in a real browser. */
import { fileURLToPath } from "node:url";
import type { RelayBoard } from "@bold-relay/standins";
import type { Browser, Page } from "playwright-core";
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from "vitest";
import { createWorld, type World } from "../../service/test/support/world.ts";
import { openBrowser, textOf } from "./support/browser.ts";

let world: World;
let browser: Browser;
let page: Page;
let board: RelayBoard;

beforeAll(async () => {
  world = await createWorld({ consoleDir: fileURLToPath(new URL("../dist", import.meta.url)) });
  board = await world.board("plover", {
    device: "plover",
    channels: [
      { slug: "blind", kind: "position" },
      { slug: "stage", kind: "colour" },
    ],
  });
  browser = await openBrowser();
});
afterAll(async () => {
  await browser.close();
  await world.stop();
});
beforeEach(async () => {
  page = await browser.newPage({ extraHTTPHeaders: { authorization: `Bearer ${world.key}` } });
});
afterEach(() => page.close());

const open = (path: string) => page.goto(world.service.url + path);
const step = (name: string, state: string) => page.locator(`[data-step="${name}"][data-state="${state}"]`);

async function fill(channels: readonly (readonly [name: string, kind: string])[], profile: string): Promise<void> {
  await page.getByRole("button", { name: "Add device" }).click();
  const form = page.getByRole("form", { name: "New device" });
  await form.getByLabel("Room").fill("Plover");
  await form.getByLabel("Name", { exact: true }).fill("board in the loft");
  await form.getByLabel("Identifier", { exact: true }).fill("plover");
  await form.getByLabel("Profile", { exact: true }).selectOption(profile);
  for (const [index, [name, kind]] of channels.entries()) {
    if (index > 0) await form.getByRole("button", { name: "Add channel" }).click();
    await form.getByLabel(`Name of channel ${index + 1}`, { exact: true }).fill(name);
    await form.getByLabel(`Kind of channel ${index + 1}`).selectOption(kind);
  }
}

describe("a device", () => {
  it("with a mistake in it is not added, and the mistake is named", async () => {
    await open("/devices");
    await fill([], "new-device");
    await page.getByRole("form", { name: "New device" }).getByRole("button", { name: "Add device" }).click();
    await page.getByRole("alert").getByText("It needs a channel").waitFor();
    await page.getByLabel("Name of channel 1", { exact: true }).fill("Loft heat");
    await page.getByLabel("Kind of channel 1").selectOption("sensor");
    await page.getByLabel("Unit of channel 1").fill("°C");
    await page.getByLabel("Profile", { exact: true }).selectOption("single-characters");
    await page.getByRole("button", { name: "Preview changes" }).click();
    await page.getByText("is a sensor, but its profile reports nothing").waitFor();
    await page.getByRole("form", { name: "New device" }).getByRole("button", { name: "Add device" }).click();
    await page.getByRole("alert").getByText("Nothing was changed.").waitFor();
  });

  it("is added while the service runs, set on the board, and proven step by step", async () => {
    await open("/devices");
    await fill(
      [
        ["Blind", "position"],
        ["Stage", "colour"],
      ],
      "new-device",
    );
    await page.getByRole("button", { name: "Preview changes" }).click();
    await page.getByText("No problems found.").waitFor();
    await page.getByRole("form", { name: "New device" }).getByRole("button", { name: "Add device" }).click();
    await page.getByRole("link", { name: "board in the loft" }).click();
    await page.getByRole("button", { name: "Start commissioning" }).click();
    await step("presence", "passed").waitFor();
    await step("channel blind", "ready").getByRole("button", { name: "Start" }).click();
    await step("channel blind", "passed").waitFor();
    await step("channel stage", "ready").getByRole("button", { name: "Skip" }).click();
    await step("channel stage", "skipped").waitFor();
    await step("hand", "ready").getByRole("button", { name: "Start" }).click();
    await step("hand", "running").waitFor();
    await board.flip("stage");
    await step("hand", "passed").waitFor();

    await open(`/board/${world.site}`);
    const row = (channel: string) => page.locator(`[data-channel="${world.address(channel)}"]`);
    await row("plover/blind").getByRole("slider").fill("40");
    await row("plover/blind").getByText("40 % open").waitFor();
    await row("plover/stage")
      .getByLabel(/^Colour of/)
      .fill("#3355ff");
    await row("plover/stage").getByText("#3355ff").waitFor();
    expect(board.state.contacts).toEqual({ blind: 40, stage: "#3355ff" });

    const before = (await world.client.log({ limit: 1 })).requests[0]?.id;
    await open(`/log/trace/${before}`);
    await page.getByRole("button", { name: "Send again" }).click();
    await page.waitForURL((url) => !url.pathname.endsWith(`${before}`));
    const again = (await world.client.log({ limit: 1 })).requests[0];
    expect(again).toMatchObject({ action: "colour", value: "#3355ff" });
  });

  it("is pointed out by a lamp that blinks, and is left as it was", async () => {
    await open(`/devices/${world.site}/plover`);
    await page.getByRole("button", { name: "Identify" }).click();
    await page.getByRole("status").getByText("Stage has blinked.").waitFor();
    expect(board.state.contacts.stage).toBe("#3355ff");
    const { requests } = await world.client.log({ channel: world.address("plover/stage"), limit: 4 });
    expect(requests.map(({ outcome }) => outcome)).toEqual(["delivered", "delivered", "delivered", "delivered"]);
  });

  it("is changed and replaced: channels and history stay", async () => {
    await open(`/devices/${world.site}/plover`);
    await page.getByRole("button", { name: "Edit device" }).click();
    const change = page.getByRole("form", { name: /^Edit the/ });
    await change.getByLabel("Name of channel 1", { exact: true }).fill("Loft blind");
    await change.getByRole("button", { name: "Preview changes" }).click();
    await change.getByText(/^changed channel plover\/blind: name/).waitFor();
    await change.getByRole("button", { name: "Save" }).click();
    await page.getByRole("region", { name: "Channels" }).getByText("Loft blind").waitFor();

    await page.getByRole("button", { name: "Replace device" }).click();
    const next = page.getByRole("form", { name: /^Replacement of/ });
    await next.getByLabel("Name", { exact: true }).fill("second board in the loft");
    await next.getByLabel("Profile", { exact: true }).selectOption("new-timing-device");
    await next.getByRole("button", { name: "Replace device" }).click();
    await page.getByRole("status").getByText("Channels, routes and history are kept.").waitFor();
    await page.getByRole("heading", { name: "second board in the loft" }).waitFor();
    const { requests } = await world.client.log({ channel: world.address("plover/stage"), limit: 1 });
    expect(requests).toHaveLength(1);
  });

  it("is edited as YAML where its form has no field, and the form keeps that", async () => {
    await open(`/devices/${world.site}/plover`);
    await page.getByRole("button", { name: "Edit as YAML" }).click();
    const form = page.getByRole("form", { name: /as YAML$/ });
    const text = form.getByLabel("Device, YAML");
    const before = await textOf(text);
    const blind = /( +)- slug: blind\n/.exec(before) ?? ["", ""];
    const more = `${blind[0]}${blind[1]}  inAll: false\n${blind[1]}  topics:\n${blind[1]}    is: Loft/Blind 1/STATE\n`;
    await text.fill(before.replace(blind[0], more).replace("slug: plover", "slug: other"));
    await form.getByRole("button", { name: "Save" }).click();
    await form.getByRole("alert").getByText("Its identifier stays plover").waitFor();
    await text.fill(before.replace(blind[0], more));
    await form.getByRole("button", { name: "Preview changes" }).click();
    await form.getByText(/^changed channel plover\/blind: /).waitFor();
    await form.getByRole("button", { name: "Save" }).click();
    const channels = page.getByRole("region", { name: "Channels" });
    await channels.getByText("← Loft/Blind 1/STATE").waitFor();

    // The form keeps what it has no field for.
    await page.getByRole("button", { name: "Edit device" }).click();
    const change = page.getByRole("form", { name: /^Edit the/ });
    await change.getByLabel("Name of channel 1", { exact: true }).fill("Blind in the loft");
    await change.getByRole("button", { name: "Save" }).click();
    await channels.getByText("Blind in the loft").waitFor();
    await channels.getByText("← Loft/Blind 1/STATE").waitFor();
    const { site, version } = await world.client.site(world.site);
    const restored = JSON.parse(
      JSON.stringify(site)
        .replace(',"topics":{"is":"Loft/Blind 1/STATE"}', "")
        .replace("Blind in the loft", "Loft blind"),
    ) as typeof site;
    await world.client.saveSite(restored, version);
  });

  it("has labels that lead to its channels, and a record to print and to keep", async () => {
    await open(`/devices/${world.site}/plover/labels`);
    const label = page.locator(`[data-label="${world.address("plover/blind")}"]`);
    await label.getByText("Loft blind").waitFor();
    const code = label.getByRole("img", {
      name: `QR code of ${world.address("plover/blind")}`,
    });
    expect(await code.locator("path").getAttribute("d")).toMatch(/^M\d/);
    await open(`/history/${world.address("plover/blind")}`);
    await page.getByRole("group", { name: /^Loft blind/ }).waitFor();

    await open(`/devices/${world.site}/plover/record`);
    await page.getByRole("cell", { name: "The service reaches the broker" }).waitFor();
    await page.getByRole("row", { name: /Stage, Plover.*skipped/ }).waitFor();
    const [file] = await Promise.all([
      page.waitForEvent("download"),
      page.getByRole("link", { name: "Download as JSON" }).click(),
    ]);
    expect(file.suggestedFilename()).toBe(`commissioning-${world.site}-plover.json`);
  });

  it("that is heard and described by nobody is found, and described from what it says", async () => {
    const publisher = await world.listener();
    const say = (topic: string, payload: string) =>
      publisher.publishAsync(`${world.site}/garage/${topic}`, payload, { retain: true, qos: 1 });
    await Promise.all([say("door-lamp/state", "ON"), say("bench/state", "OFF"), say("online", "online")]);
    await open("/devices");
    await page.getByRole("button", { name: /^Listen for unassigned/ }).click();
    const heard = page.getByRole("region", { name: "Unassigned devices" });
    const entry = heard.getByRole("listitem").filter({ hasText: `${world.site}/garage` });
    await entry.getByText("matches the profile capital-words: door-lamp (relay), bench (relay)").waitFor();
    await entry.getByRole("button", { name: "Add device" }).click();
    const form = page.getByRole("form", { name: "New device" });
    await form.getByLabel("Room").fill("Garage");
    await form.getByLabel("Name", { exact: true }).fill("board in the garage");
    await form.getByRole("button", { name: "Add device" }).click();
    await page.getByRole("link", { name: "board in the garage" }).click();
    await page.getByRole("region", { name: "Channels" }).getByText("Door lamp").waitFor();
    expect(
      (await world.client.board()).sites[0]?.channels.find(({ name }) => name === "Door lamp")?.observed?.value,
    ).toBe("on");

    await page.getByRole("button", { name: "Delete device" }).click();
    await page.getByRole("button", { name: /^Delete the board in the garage/ }).click();
    await page.getByRole("heading", { name: "Devices", exact: true }).waitFor();
    await page.getByRole("link", { name: "board in the garage" }).waitFor({ state: "detached" });
    await Promise.all([say("door-lamp/state", ""), say("bench/state", ""), say("online", "")]);
  });
});

describe("the wire", () => {
  it("shows what is said and what it is, and takes a message by hand", async () => {
    await world.board("wren");
    await open(`/wire?filter=${encodeURIComponent(`${world.site}/wren/#`)}`);
    await page.getByText("online, retained").waitFor();
    await world.ask("wren/porch", "on");
    const line = page.getByRole("row").filter({ hasText: "report" }).filter({ hasText: "command …" });
    await line.first().getByText(`${world.site}/wren/porch/is`, { exact: true }).waitFor();
    const byHand = page.getByRole("region", { name: "Publish by hand" });
    await byHand.getByLabel("Topic").fill(`${world.site}/wren/hall/is`);
    await byHand.getByLabel("Payload").fill('{"to":"on","by":"hand"}');
    await byHand.getByRole("button", { name: "Publish" }).click();
    await byHand.getByRole("status").getByText("The audit log has a record of it.").waitFor();
    await page.getByText("on, by hand").first().waitFor();
    await byHand.getByLabel("Topic").fill("$SYS/x");
    await byHand.getByRole("button", { name: "Publish" }).click();
    await byHand.getByRole("alert").getByText("not begin with $").waitFor();
  });
});

describe("a profile", () => {
  it("is tried with what was typed and what the wire carries, and saved beside the one that it came from", async () => {
    await world.board("wren");
    await open("/devices");
    await page.getByRole("link", { name: "Profiles" }).click();
    const profile = page.getByLabel("Profile, YAML");
    await page.getByLabel("Profile", { exact: true }).selectOption({ label: (await labelOf("capital-words")) ?? "" });
    const writes = page.getByRole("region", { name: "Commands" });
    await writes.getByRole("cell", { name: "ON", exact: true }).waitFor();

    const before = await textOf(profile);
    await profile.fill(before.replace("slug: capital-words", "slug: my-words").replaceAll("ON", "OPEN"));
    await writes.getByRole("cell", { name: "OPEN", exact: true }).waitFor();

    await page.getByRole("button", { name: "Choose messages from the wire" }).click();
    const picked = page.getByRole("listitem").filter({ hasText: `${world.site}/wren/here` });
    await picked.getByRole("button", { name: "Add" }).click();
    const reads = page.getByRole("region", { name: "Received messages" });
    await reads.getByText("no channel of this device has this topic").waitFor();

    await page.getByRole("button", { name: "Save profile" }).click();
    await page.getByRole("button", { name: "Save profile", disabled: true }).waitFor();
    expect((await world.client.profiles()).map(({ profile: { slug } }) => slug)).toContain("my-words");

    await profile.fill("slug: [");
    await page.getByRole("alert").first().waitFor();
  });
});

async function labelOf(slug: string): Promise<string | undefined> {
  const found = (await world.client.profiles()).find(({ profile }) => profile.slug === slug);
  return found && `${found.profile.name} (${found.devices === 1 ? "1 device" : `${found.devices} devices`})`;
}

describe("a site", () => {
  it("is added, and deleted again once nothing depends on it", async () => {
    await open("/devices");
    await page.getByRole("button", { name: "Add site" }).click();
    const form = page.getByRole("form", { name: "New site" });
    await form.getByLabel("Name", { exact: true }).fill("Finch Yard");
    await form.getByRole("button", { name: "Add site" }).click();
    const section = page.getByRole("region", { name: "Finch Yard" });
    await section.getByText("no devices").waitFor();

    const inlet = { slug: "yard", name: "Yard", kind: "web", site: "finch-yard" } as const;
    await world.client.saveInlet(inlet, 0);
    await section.getByRole("button", { name: "Delete site" }).click();
    const sure = section.getByRole("button", { name: "Delete Finch Yard with 0 devices and 0 channels" });
    await sure.click();
    await page.getByRole("alert").getByText("is used by the inlet yard").waitFor();
    await world.client.removeInlet("yard");
    await sure.click();
    await section.waitFor({ state: "detached" });
    expect((await world.client.board()).sites.map(({ name }) => name)).not.toContain("Finch Yard");
  });
});

describe("a profile", () => {
  it("that devices use stays, and says which; one that none uses is deleted", async () => {
    await open("/devices/profiles");
    const choose = (slug: string) => page.getByLabel("Profile", { exact: true }).selectOption(slug);
    const remove = async (slug: string) => {
      await choose(slug);
      await page.getByRole("button", { name: "Delete profile" }).click();
      await page.getByRole("button", { name: `Delete the profile ${slug}` }).click();
    };
    await remove("reporting");
    await page
      .getByRole("alert")
      .getByText(/is used by the device/)
      .waitFor();
    await remove("single-characters");
    await page.locator('option[value="single-characters"]').waitFor({ state: "detached" });
  });
});
