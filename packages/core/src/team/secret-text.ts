/** Keys, secrets and links of ours that somebody has put in the wrong place: a target, a name, a field that nothing reads. None is stored. */

/** What stands in their place. */
export const A_KEY_WAS_HERE = "(a key was here)";

/** Marks without which a text holds none: looked for first, for nearly no text has one. */
const MARKS = ["brk_", "whsec_", "/reset", "/setup", "/link"] as const;
/**
 * A key; a signing secret, in base64; the token of a link, behind a "#" or in its path, which is longer than any level of an address may be:
 * a device may be called "link".
 */
const SECRETS = /brk_[\w-]{16,}|whsec_[A-Za-z0-9+/=]{16,}|(?<=\/(?:reset|setup|link)[/#])[\w.-]{41,}/g;

/** @example withoutSecrets("brk_2vXq… porch lantern on") // → "(a key was here) porch lantern on" */
export function withoutSecrets(text: string): string {
  return MARKS.some((mark) => text.includes(mark)) ? text.replace(SECRETS, A_KEY_WAS_HERE) : text;
}

/** The same of every text and name in a document. Returns the document itself where there is none. */
export function withoutSecretsIn<Value>(value: Value): Value {
  if (typeof value === "string") return withoutSecrets(value) as Value;
  if (typeof value !== "object" || value === null) return value;
  if (!MARKS.some((mark) => JSON.stringify(value).includes(mark))) return value;
  return cleaned(value) as Value;
}

function cleaned(value: unknown): unknown {
  if (typeof value === "string") return withoutSecrets(value);
  if (typeof value !== "object" || value === null) return value;
  if (Array.isArray(value)) return value.map(cleaned);
  return Object.fromEntries(Object.entries(value).map(([name, one]) => [withoutSecrets(name), cleaned(one)]));
}
