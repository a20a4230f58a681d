/** Joi schema of a notification. */
import { type NotificationDescription, OUTCOMES } from "@bold-relay/core";
import Joi from "joi";
import { plainText } from "./text.ts";

/** The body of `GET /notifications`. */
export const notificationSchema = Joi.object<NotificationDescription>({
  slug: Joi.string()
    .pattern(/^[a-z0-9](?:[a-z0-9-]{0,38}[a-z0-9])?$/)
    .messages({
      "string.pattern.base": "{{#label}} may hold small letters, digits and hyphens, 1 to 40, no hyphen at either end",
    })
    .required(),
  name: plainText.trim().min(1).max(80).required(),
  site: Joi.string().max(40).allow(null).required(),
  paused: Joi.boolean(),
  on: Joi.object({
    outcomes: Joi.array()
      .items(Joi.valid(...OUTCOMES.filter((one) => one !== "open")))
      .min(1),
    changes: Joi.boolean(),
    alerts: Joi.boolean(),
  })
    .min(1)
    .required(),
  to: Joi.object({
    url: Joi.string()
      .uri({ scheme: ["http", "https"] })
      .max(500),
    topic: plainText
      .max(200)
      .pattern(/^[^$+#][^+#]*$/)
      .messages({
        "string.pattern.base": "{{#label}} may hold no wildcard, no control character, and not begin with $",
      }),
  })
    .xor("url", "topic")
    .required(),
})
  .required()
  .label("notification")
  .prefs({ abortEarly: false, convert: false, errors: { wrap: { label: "“”" } } });
