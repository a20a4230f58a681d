// `npm run screenshots`: takes docs/screenshots anew from the demo that runs in this folder.
// Run it on a demo that has something to show: docs/screenshots.md tells how.
import { execFileSync } from "node:child_process";
import { readFileSync } from "node:fs";
import { chromium } from "playwright-core";

const env = Object.fromEntries(
  [...readFileSync(".demo/cli.env", "utf8").matchAll(/export (BOLD_RELAY_\w+)='?([^'\s]+)/g)].map(([, name, value]) => [
    name,
    value,
  ]),
);
const folder = "docs/screenshots";
const flags = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking"];
const browser = await chromium.launch({ executablePath: "/usr/bin/chromium", args: flags });
const size = { viewport: { width: 1280, height: 800 } };

const page = await browser.newPage({ ...size, extraHTTPHeaders: { authorization: `Bearer ${env.BOLD_RELAY_KEY}` } });
await page.goto(`${env.BOLD_RELAY_URL}/board/alder-row`);
await page.getByRole("rowheader", { name: "Porch lantern" }).first().waitFor();
await page.evaluate(() => document.fonts.ready);
await page.screenshot({ path: `${folder}/board.png` });
for (const [channel, name] of [["alder-row/finch/porch", "trace-stopped"]]) {
  await page.locator(`[data-channel="${channel}"] a[href*="/trace/"]`).click();
  await page.getByText("Send again").first().waitFor();
  await page.mouse.move(0, 0);
  await page.screenshot({ path: `${folder}/${name}.png` });
}

await page.goto(`${env.BOLD_RELAY_URL}/log`);
await page.locator("[data-request]").first().waitFor();
await page.screenshot({ path: `${folder}/log.png` });
for (const [name, path, ready] of [
  ["history", "/history/alder-row/finch/porch", "[aria-label^=On] li"],
  ["access", "/access", "[data-member]"],
  ["alerts", "/alerts", "[data-alert]"],
  ["statistics", "/statistics", "[data-group]"],
  ["inlet", "/inlets/booking", "[role=status]"],
  ["map", `/map?of=${encodeURIComponent("drive gate")}`, "tbody tr"],
  ["devices", "/devices", "ul li"],
  ["site", "/sites/alder-row", "[data-part]"],
  ["wire", `/wire?filter=${encodeURIComponent("fennel-hall/#")}`, "tbody tr"],
]) {
  await page.goto(env.BOLD_RELAY_URL + path);
  await page.locator(ready).first().waitFor();
  await page.evaluate(() => document.fonts.ready);
  await page.screenshot({ path: `${folder}/${name}.png` });
}
await page.goto(`${env.BOLD_RELAY_URL}/notifications`);
await page.getByRole("region", { name: "Night desk" }).getByRole("button", { name: "Delivery log" }).click();
await page.locator("tbody tr").first().waitFor();
await page.screenshot({ path: `${folder}/notifications.png` });
// A commissioning as far as it goes without hands: the record shows what was seen.
await page.goto(`${env.BOLD_RELAY_URL}/devices/fennel-hall/hall-board`);
await page.getByRole("button", { name: /^(Start commissioning|Commission again)/ }).click();
for (const channel of ["circuit-1", "circuit-2", "heating"]) {
  await page
    .locator(`[data-step="channel ${channel}"][data-state=ready]`)
    .getByRole("button", { name: "Start" })
    .click();
  await page.locator(`[data-step="channel ${channel}"][data-state=passed]`).waitFor();
}
await page.evaluate(() => document.querySelector("[data-step=hand]").scrollIntoView({ block: "center" }));
await page.screenshot({ path: `${folder}/device.png` });

for (const [name, more] of [
  ["board-dark", { ...size, colorScheme: "dark" }],
  ["board-phone", { viewport: { width: 390, height: 844 } }],
]) {
  const other = await browser.newPage({ ...more, extraHTTPHeaders: { authorization: `Bearer ${env.BOLD_RELAY_KEY}` } });
  await other.goto(`${env.BOLD_RELAY_URL}/board/alder-row`);
  await other.locator("[data-channel]").first().waitFor();
  await other.evaluate(() => document.fonts.ready);
  await other.screenshot({ path: `${folder}/${name}.png` });
}

// A panel, with a key as its link has it.
const shared = execFileSync(
  process.execPath,
  ["packages/cli/bin/bold-relay.js", "inlet", "share", "glasshouse-door", "--name", "picture", "--json"],
  { env: { ...process.env, ...env } },
);
const panel = await browser.newPage(size);
await panel.goto(JSON.parse(shared.toString()).link);
await panel.locator("[data-item]").first().waitFor();
await panel.evaluate(() => document.fonts.ready);
await panel.screenshot({ path: `${folder}/panel.png` });

// The terminal: a pseudo-terminal makes the command line draw as for a person; its few styles become HTML.
const terminals = {
  "cli-log": "log --limit 8",
  "cli-trace": "trace last --channel alder-row/finch/porch",
};
for (const [name, words] of Object.entries(terminals)) {
  const text = execFileSync(
    "script",
    ["-qec", `stty cols 170; node packages/cli/bin/bold-relay.js ${words} || true`, "/dev/null"],
    {
      env: { ...process.env, ...env, TERM: "xterm-256color" },
      encoding: "utf8",
    },
  );
  const shot = await browser.newPage({ viewport: { width: 1280, height: 200 } });
  await shot.setContent(terminalPage(`$ bold-relay ${words}\n${text}`));
  await shot.locator("pre").screenshot({ path: `${folder}/${name}.png` });
}
await browser.close();

function terminalPage(text) {
  const escaped = text
    .replaceAll(String.fromCharCode(27), "⎋")
    .replace(/\r[^\n]*⎋\[K/g, "")
    .replaceAll("\r", "")
    .replace(/[<&]/g, (c) => (c === "<" ? "&lt;" : "&amp;"));
  const classes = { 1: "b", 2: "f", 31: "r", 33: "y" };
  const html = escaped.replace(/⎋\[(\d+)m/g, (_, code) =>
    classes[code] ? `<span class="${classes[code]}">` : "</span>",
  );
  return `<style>body{margin:0;background:#fff}pre{margin:0;padding:16px 18px;background:#191d1d;color:#e6eae6;
    font:12px/18px "DejaVu Sans Mono",monospace;white-space:pre-wrap;width:1244px}.b{font-weight:bold}.f{color:#8f9993}
    .r{color:#f0877d}.y{color:#ffb92e}</style><pre>${html.trimEnd()}</pre>`;
}
