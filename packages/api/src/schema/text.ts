/** Texts that people see: none holds a control character, which could forge a log line or a terminal, or turn writing round. */
import Joi from "joi";

/** In one line. */
export const plainText = Joi.string()
  .pattern(/^[^\p{Cc}\p{Cs}\u2028\u2029\u202a-\u202e\u2066-\u2069]*$/u)
  .messages({ "string.pattern.base": "{{#label}} holds a control character" });

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
