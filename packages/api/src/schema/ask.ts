/** Joi schemas of what may be asked. Unknown fields are refused, never dropped. */
import { STAGES } from "@bold-relay/core";
import Joi from "joi";
import {
  type AskBody,
  type CloseBody,
  DELIVERY_ENDS,
  type DeliveryQuery,
  type LockOutBody,
  type ReleaseBody,
  type SignInBody,
} from "../ask.ts";

/** Set once at the schema: handing options to each `validate` costs more than the validation. */
const strict: Joi.ValidationOptions = { abortEarly: false, convert: false, errors: { wrap: { label: "“”" } } };

/** Text that people see: no control characters, which could forge a log line or a terminal. */
const plainText = Joi.string()
  .pattern(/^[^\p{Cc}\p{Cs}\u2028\u2029\u202a-\u202e\u2066-\u2069]*$/u)
  .messages({ "string.pattern.base": "{{#label}} holds a control character" });

const ask = {
  target: plainText.min(1).max(200).required(),
  action: plainText.min(1).max(40).required(),
  value: Joi.number(),
  forMs: Joi.number().integer().min(200).max(86_400_000),
  until: Joi.valid(...STAGES.slice(1)),
};

export const askSchema = Joi.object<AskBody>(ask).required().label("body").prefs(strict);

/** At an inlet the caller may also say for whom it asks. */
export const inletAskSchema = Joi.object<AskBody>({ ...ask, sender: plainText.min(1).max(80) })
  .required()
  .label("body")
  .prefs(strict);

export const lockOutSchema = Joi.object<LockOutBody>({
  target: plainText.min(1).max(200).required(),
  reason: plainText.min(1).max(200),
})
  .required()
  .label("body")
  .prefs(strict);

export const releaseSchema = Joi.object<ReleaseBody>({ reason: plainText.min(1).max(200) })
  .required()
  .label("body")
  .prefs(strict);

export const closeSchema = Joi.object<CloseBody>({ reason: plainText.min(1).max(200).required() })
  .required()
  .label("body")
  .prefs(strict);

export const signInSchema = Joi.object<SignInBody>({
  name: plainText.min(1).max(80).required(),
  password: Joi.string().min(1).max(200).required(),
})
  .required()
  .label("body")
  .prefs(strict);

export const deliveryQuerySchema = Joi.object<DeliveryQuery>({
  limit: Joi.number().integer().min(1).max(200),
  before: Joi.string().lowercase().uuid(),
  channel: plainText.min(1).max(200),
  asker: plainText.min(1).max(80),
  ended: Joi.valid(...DELIVERY_ENDS),
  words: plainText.min(2).max(80),
})
  // A query holds only text: here a number may be written as one.
  .prefs({ ...strict, convert: true });
