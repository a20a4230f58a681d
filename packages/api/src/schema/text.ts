/** Texts that people see: none holds a control character, which could forge a log line or a terminal, or turn writing round. */
import Joi from "joi";

/** In one line. */
export const plainText = Joi.string()
  .pattern(/^[^\p{Cc}\p{Cs}\u2028\u2029\u202a-\u202e\u2066-\u2069]*$/u)
  .messages({ "string.pattern.base": "{{#label}} holds a control character" });

/** Alphabets with letters that look like Latin ones. */
const LOOKS_LATIN =
  /[\p{Script=Cyrillic}\p{Script=Greek}\p{Script=Armenian}\p{Script=Cherokee}\p{Script=Lisu}\p{Script=Coptic}]/u;

/**
 * The name of a member. Two names that look the same to people must not be two members (Unicode TR 39): no invisible characters, no letters
 * of other alphabets within a Latin word, no letters that are written otherwise in their plain form, one space between words.
 */
export const memberName = plainText
  .trim()
  .min(1)
  .max(80)
  .custom((typed: string, helpers) => {
    // Some keyboards write é as two characters.
    const name = typed.normalize("NFC");
    const isMixed = name.split(/[\s-]/u).some((word) => /\p{Script=Latin}/u.test(word) && LOOKS_LATIN.test(word));
    if (/[\p{Cf}\p{Mn}\p{Me}]{3}|\p{Cf}|[\u115f\u1160\u3164\uffa0\u2800]/u.test(name))
      return helpers.error("name.invisible");
    if (isMixed) return helpers.error("name.mixed");
    return name === name.normalize("NFKC") && !/\s{2}|[^\S ]/u.test(name) ? name : helpers.error("name.form");
  })
  .messages({
    "name.invisible": "{{#label}} holds characters that nobody sees: another name could look the same",
    "name.mixed": "{{#label}} mixes letters of two alphabets in one word: another name could look the same",
    "name.form": "{{#label}} holds letters or spaces in a special form: write them plainly",
  });

/** In lines: tabs and line ends are allowed. */
export const plainLines = Joi.string()
  .pattern(/^(?:[^\p{Cc}\p{Cs}\u202a-\u202e\u2066-\u2069]|[\t\r\n])*$/u)
  .messages({ "string.pattern.base": "{{#label}} holds a control character" });

/** An IANA time zone, as the host knows it. @example "Europe/London" */
export const timeZone = Joi.string()
  .max(60)
  .custom((zone: string, helpers) => {
    try {
      new Intl.DateTimeFormat("en", { timeZone: zone });
      return zone;
    } catch {
      return helpers.error("zone.unknown");
    }
  })
  .messages({ "zone.unknown": "{{#label}} is no time zone, like Europe/London" });
