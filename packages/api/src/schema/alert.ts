/** Joi schemas of alerts. */
import { ALERT_KINDS } from "@bold-relay/core";
import Joi from "joi";
import type { AlertChangeBody } from "../alert-view.ts";
import { plainText } from "./text.ts";

const strict: Joi.ValidationOptions = { abortEarly: false, convert: false, errors: { wrap: { label: "“”" } } };

/** The body of `POST /alerts`. */
export const alertChangeSchema = Joi.object<AlertChangeBody>({
  kind: Joi.valid(...ALERT_KINDS).required(),
  subject: plainText.min(1).max(300).required(),
  assign: Joi.boolean(),
  note: plainText
    .allow("")
    .max(300)
    .pattern(/^[^\p{Cc}\u2028\u2029\u202a-\u202e\u2066-\u2069]*$/u)
    .messages({ "string.pattern.base": "{{#label}} holds a control character" }),
  snoozeHours: Joi.number().min(0).max(720),
  resolve: Joi.boolean(),
})
  .or("assign", "note", "snoozeHours", "resolve")
  .required()
  .label("body")
  .prefs(strict);

/** The query of `GET /alerts`. */
export const alertsQuerySchema = Joi.object<{ all?: boolean }>({ all: Joi.boolean() }).prefs({
  ...strict,
  convert: true,
});
