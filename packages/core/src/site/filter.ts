/** MQTT topic filters (MQTT 5, section 4.7). */

/**
 * Whether a filter covers a topic. Filters that begin with a wildcard do not cover topics that begin with $ (4.7.2).
 *
 * @example covers("alder-row/+/porch/#", "alder-row/wren/porch/is") // → true
 */
export function covers(filter: string, topic: string): boolean {
  if (topic.startsWith("$") && /^[+#]/.test(filter)) return false;
  const wanted = filter.split("/");
  const levels = topic.split("/");
  for (const [index, level] of wanted.entries()) {
    if (level === "#") return true;
    if (index >= levels.length || (level !== "+" && level !== levels[index])) return false;
  }
  return wanted.length === levels.length;
}

/** Whether some topic is covered by both filters. */
export function overlap(one: string, other: string): boolean {
  const [mine, theirs] = [one.split("/"), other.split("/")];
  for (let index = 0; ; index += 1) {
    const [a, b] = [mine[index], theirs[index]];
    if (a === "#" || b === "#") return true;
    if (a === undefined || b === undefined) return a === b;
    if (a !== "+" && b !== "+" && a !== b) return false;
  }
}

/** @example firstLevel("alder-row/+/here") // → "alder-row" */
export function firstLevel(topicOrFilter: string): string {
  const end = topicOrFilter.indexOf("/");
  return end < 0 ? topicOrFilter : topicOrFilter.slice(0, end);
}

/** Whether a text is a topic filter: # only as the last level, + only as a whole level. */
export function isFilter(text: string): boolean {
  const levels = text.split("/");
  return (
    text !== "" &&
    !/[\p{Cc}\p{Cs}]/u.test(text) &&
    levels.every((level, index) =>
      level.includes("#") ? level === "#" && index === levels.length - 1 : !level.includes("+") || level === "+",
    )
  );
}
