/** Remembers what was made of texts: thousands of channels share a few rooms, sites and patterns. */

/** Texts that are remembered at any time, see `remembered`. */
const MOST_REMEMBERED = 10_000;

export function remembered<Made>(make: (text: string) => Made): (text: string) => Made {
  const known = new Map<string, Made>();
  return (text) => {
    const before = known.get(text);
    if (before !== undefined) return before;
    const made = make(text);
    // Whoever changes patterns again and again must not fill the memory.
    if (known.size >= MOST_REMEMBERED) known.clear();
    known.set(text, made);
    return made;
  };
}
