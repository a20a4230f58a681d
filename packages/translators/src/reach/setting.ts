/** Settings that several kinds of reach have. */
import Joi from "joi";

export const ms = (least: number, most: number) => Joi.number().integer().min(least).max(most);
export const path = Joi.string().pattern(/^\//).max(300);
export const method = Joi.valid("GET", "POST", "PUT").required();

/** A serial line: a tty of this machine, or one behind TCP. */
export const port = Joi.string()
  .pattern(/^(?:tcp:\/\/[\w.-]+:\d{1,5}|\/dev\/[\w./-]+)$/)
  .messages({ "string.pattern.base": "{{#label}} is a tty like /dev/ttyUSB0, or tcp://host:port" })
  .required();
