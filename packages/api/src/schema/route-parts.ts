/** Forms that routes and settings of inlets share. */
import { isPointer } from "@bold-relay/core";
import Joi from "joi";

export const pointer = Joi.string()
  .max(200)
  .custom((found: string, helpers) => (isPointer(found) ? found : helpers.error("pointer.form")))
  .messages({ "pointer.form": "{{#label}} is no JSON Pointer, like /text" });

/** An input: `device/channel` or `site/device/channel`, in which a level may be a hole. */
export const routeChannel = Joi.string()
  .max(130)
  .pattern(/^(?:[a-z0-9-]{1,40}|\+|\{[a-zA-Z]\w{0,30}\})(?:\/(?:[a-z0-9-]{1,40}|\+|\{[a-zA-Z]\w{0,30}\})){1,2}$/)
  .messages({
    "string.pattern.base":
      "{{#label}} is device/channel or site/device/channel; + or a hole like \\{room} stands for one whole level",
  });

export const routeTopic = Joi.string()
  .min(1)
  .max(200)
  .pattern(/^(?!\$)(?:[^+#{}/]+|\+|\{[a-zA-Z]\w{0,30}\})(?:\/(?:[^+#{}/]+|\+|\{[a-zA-Z]\w{0,30}\}))*(?:\/#)?$/)
  .messages({
    "string.pattern.base":
      "{{#label}} is a topic filter: + or a hole like \\{bay} stands for one whole level, # for all the rest, at the end; never below $",
  });
