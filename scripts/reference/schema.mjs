// What a Joi description says of a value, in a few words.

/** "1 to 10", "`on`, `off`", "URI" */
export function formOf(description) {
  const { type, allow, flags = {}, rules = [] } = description;
  if (flags.only && allow)
    return allow
      .filter((one) => typeof one !== "object")
      .map((one) => `\`${one}\``)
      .join(", ");
  if (type === "number") return numberOf(rules);
  if (type === "boolean") return "`true`, `false`";
  if (type === "array") return "list";
  if (type === "object") return "object";
  if (type === "string") return rules.some(({ name }) => name === "uri") ? "URI" : "text";
  return "";
}

function numberOf(rules) {
  const limit = (name) => rules.find((rule) => rule.name === name)?.args.limit;
  if (rules.some(({ name }) => name === "port")) return "port";
  const whole = rules.some(({ name }) => name === "integer") ? "whole number" : "number";
  const [least, most] = [limit("min"), limit("max")];
  return least === undefined ? whole : `${whole}, ${least} to ${most}`;
}
