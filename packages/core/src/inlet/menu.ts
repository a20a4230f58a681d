/** The menu of a keypad: what a caller hears, and what each key does. */
export interface Menu {
  readonly say: string;
  readonly keys: Readonly<Record<string, MenuItem>>;
}

/** Either a phrase, or a menu of its own. */
export interface MenuItem {
  /** Read out before what became of it. */
  readonly say?: string;
  readonly phrase?: string;
  readonly menu?: Menu;
}

/** What stands on a key; null: nothing. */
export function itemAt({ keys }: Menu, key: string): MenuItem | null {
  return Object.hasOwn(keys, key) ? (keys[key] ?? null) : null;
}

/**
 * What keys ask for, one after the other from the beginning of a call.
 *
 * @returns null when they end nowhere, or in a menu
 */
export function phraseAt(menu: Menu, digits: string): string | null {
  let at: Menu | undefined = menu;
  let phrase: string | null = null;
  for (const key of digits) {
    const item: MenuItem | null = at ? itemAt(at, key) : null;
    if (!item) return null;
    phrase = item.phrase ?? null;
    // After a phrase the caller is at the beginning again.
    at = item.menu ?? menu;
  }
  return phrase;
}
