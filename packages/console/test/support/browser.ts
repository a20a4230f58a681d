/** Debian's Chromium, headless, driven by playwright-core. */
import { type Browser, chromium, type Locator, type Page } from "playwright-core";

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
    // Not being signed in is answered 401, which the browser notes as an error of loading.
    if (message.type() === "error" && !message.text().includes("401")) errors.push(message.text());
  });
  return page;
}

/** What stands in the editor. Its lines are elements of their own. */
export async function textOf(editor: Locator): Promise<string> {
  await editor.locator(".cm-line").first().waitFor();
  const lines = await editor.locator(".cm-line").allInnerTexts();
  return lines.map((line) => line.replace(/\n$/, "")).join("\n");
}
