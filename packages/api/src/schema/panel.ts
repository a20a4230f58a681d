/** Joi schemas of what a panel takes. */
import Joi from "joi";
import type { PanelAskBody, PanelPinBody } from "../panel-view.ts";
import { plainText } from "./text.ts";

const strict: Joi.ValidationOptions = { abortEarly: false, convert: false, errors: { wrap: { label: "“”" } } };

/** The body of `POST /in/:inlet` of a panel. */
export const panelAskSchema = Joi.object<PanelAskBody>({
  target: plainText.min(1).max(200).required(),
  action: plainText.min(1).max(40).required(),
  value: Joi.alternatives(Joi.number(), plainText.max(1_000)),
})
  .required()
  .label("body")
  .prefs(strict);

/** The body of `POST /in/:inlet/pin` of a panel. */
export const panelPinSchema = Joi.object<PanelPinBody>({ pin: Joi.string().min(1).max(32).required() })
  .required()
  .label("body")
  .prefs(strict);
