/** The key of a panel, kept in this browser: a tablet at a wall is switched off and on again, and nobody types a key there. */

const placeOf = (slug: string) => `panel-key ${slug}`;

/** From the address, where it came with a link, and out of it; else as it was kept. null: there is none. */
export function takeKey(slug: string): string | null {
  const shown = keyIn(window.location.hash);
  if (shown === null) return localStorage.getItem(placeOf(slug));
  localStorage.setItem(placeOf(slug), shown);
  // Out of the address bar, the history and whatever is shared of it.
  window.history.replaceState(null, "", window.location.pathname);
  return shown;
}

/** @returns whether a pasted link or key has one; it is kept then */
export function keepKey(slug: string, pasted: string): string | null {
  const key = keyIn(pasted);
  if (key !== null) localStorage.setItem(placeOf(slug), key);
  return key;
}

export function forgetKey(slug: string): void {
  localStorage.removeItem(placeOf(slug));
}

/** @example keyIn("https://relay.example/panel/kitchen#brk_abc…") // → "brk_abc…" */
function keyIn(text: string): string | null {
  return /brk_[A-Za-z0-9_-]{20,100}/.exec(text)?.[0] ?? null;
}
