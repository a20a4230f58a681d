/**
 * Text as PostgreSQL takes it. It refuses the character 0 in any text and halves of surrogate pairs in JSON, and with them the whole
 * statement: whatever a device or caller has sent, its row must be stored. What is escaped stays readable.
 */

/** @example storableText("ON\0") // → "ON\\x00" */
export function storableText(text: string): string {
  const plain = text.includes("\0") ? text.replaceAll("\0", "\\x00") : text;
  return plain.isWellFormed() ? plain : plain.toWellFormed();
}

/** As JSON. @example storableJson({ why: "ON\0" }) // → '{"why":"ON\\\\u0000"}' */
export function storableJson(value: unknown): string {
  const text = JSON.stringify(value);
  // An escape is rare, and then nearly always a line break.
  if (!text.includes("\\u")) return text;
  return text.replaceAll(/(\\\\)|\\u(0000|d[89a-f][0-9a-f]{2})/g, (all, escaped: string | undefined) =>
    escaped === undefined ? `\\${all}` : all,
  );
}
