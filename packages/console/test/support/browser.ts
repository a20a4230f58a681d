/** Debian's Chromium, headless, driven by playwright-core. */
import { type Browser, chromium, type Locator, type Page } from "playwright-core";
import { OWNER, signedInAs, type World } from "../../../service/test/support/world.ts";

const FLAGS = [
  "--no-sandbox",
  "--disable-gpu",
  "--disable-quic",
  "--no-first-run",
  "--disable-background-networking",
  "--disable-component-update",
  "--disable-sync",
];

export function openBrowser(): Promise<Browser> {
  return chromium.launch({ executablePath: "/usr/bin/chromium", args: FLAGS });
}

/** A page of a laptop's size that fails the test on any script error. */
export async function openPage(browser: Browser, errors: string[]): Promise<Page> {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  page.on("pageerror", (error) => errors.push(error.message));
  page.on("console", (message) => {
    // Not being signed in is answered 401, and not recently 403, which the browser notes as errors of loading.
    if (message.type() === "error" && !/40[13]/.test(message.text())) errors.push(message.text());
  });
  return page;
}

/** A page of a laptop's size on which the owner has just signed in. */
export async function openSignedIn(browser: Browser, { pool, service }: World): Promise<Page> {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const { cookie = "" } = await signedInAs(pool, OWNER.name, service.url);
  const [name = "", value = ""] = cookie.split("=");
  await page.context().addCookies([{ name, value, url: service.url }]);
  return page;
}

/** What stands in the editor. Its lines are elements of their own. */
export async function textOf(editor: Locator): Promise<string> {
  await editor.locator(".cm-line").first().waitFor();
  const lines = await editor.locator(".cm-line").allInnerTexts();
  return lines.map((line) => line.replace(/\n$/, "")).join("\n");
}
