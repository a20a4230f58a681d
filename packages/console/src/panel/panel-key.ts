/**
 * The key of a panel. The browser keeps it in a cookie that no script reads: a tablet at a wall is switched off and on again, and nobody types a
 * key there. A browser without cookies keeps it with what the page stores.
 */
import { createPanelClient, ProblemError } from "@bold-relay/api";

/** The key itself, or that it is in the cookie. */
export type PanelKey = string;
export const IN_COOKIE: PanelKey = "cookie";

/** A service that does not answer must not keep the panel from saying so, ms. */
const SETTLE_WITHIN_MS = 5_000;

const placeOf = (slug: string) => `panel-key ${slug}`;

/** From the address, where it came with a link, and out of it; else as it was kept. null: there is none. */
export function takeKey(slug: string): PanelKey | null {
  const shown = keyIn(window.location.hash);
  if (shown === null) return localStorage.getItem(placeOf(slug));
  localStorage.setItem(placeOf(slug), shown);
  // Out of the address bar, the history and whatever is shared of it.
  window.history.replaceState(null, "", window.location.pathname);
  return shown;
}

/** @returns the key in a pasted link; null: it has none */
export function keepKey(slug: string, pasted: string): PanelKey | null {
  const key = keyIn(pasted);
  if (key !== null) localStorage.setItem(placeOf(slug), key);
  return key;
}

export function forgetKey(slug: string): void {
  localStorage.removeItem(placeOf(slug));
}

/**
 * Moves a key into the cookie.
 *
 * @returns `IN_COOKIE`; the key as it was where the browser keeps no cookies, or the service does not answer or refuses it
 */
export function settleKey(slug: string, key: PanelKey): Promise<PanelKey> {
  const late = new Promise<PanelKey>((resolve) => setTimeout(() => resolve(key), SETTLE_WITHIN_MS));
  return Promise.race([moveIntoCookie(slug, key), late]);
}

async function moveIntoCookie(slug: string, key: PanelKey): Promise<PanelKey> {
  if (key === IN_COOKIE) return key;
  try {
    await createPanelClient({ baseUrl: "", slug, key }).keepKey();
    if (!(await isInCookie(slug))) return key;
  } catch {
    return key;
  }
  localStorage.setItem(placeOf(slug), IN_COOKIE);
  return IN_COOKIE;
}

/** Whether the service knows this browser without the key. */
async function isInCookie(slug: string): Promise<boolean> {
  try {
    await createPanelClient({ baseUrl: "", slug }).view();
    return true;
  } catch (error) {
    return error instanceof ProblemError && error.problem.code === "pin-needed";
  }
}

/** @example keyIn("https://relay.example/panel/kitchen#brk_abc…") // → "brk_abc…" */
function keyIn(text: string): string | null {
  return /brk_[A-Za-z0-9_-]{20,100}/.exec(text)?.[0] ?? null;
}
