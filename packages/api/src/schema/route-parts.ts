/** Forms that routes and settings of inlets share. */
import { isPointer } from "@bold-relay/core";
import Joi from "joi";

export const pointer = Joi.string()
  .max(200)
  .custom((found: string, helpers) => (isPointer(found) ? found : helpers.error("pointer.form")))
  .messages({ "pointer.form": "{{#label}} is no JSON Pointer, like /text" });

export const routeTopic = Joi.string()
  .min(1)
  .max(200)
  .pattern(/^(?!\$)(?:[^+#{}/]+|\+|\{[a-zA-Z]\w{0,30}\})(?:\/(?:[^+#{}/]+|\+|\{[a-zA-Z]\w{0,30}\}))*(?:\/#)?$/)
  .messages({
    "string.pattern.base":
      "{{#label}} is a topic filter: + or a hole like \\{bay} stands for one whole level, # for all the rest, at the end; never below $",
  });
