/** What only one kind of inlet has: its settings, one schema for each kind. */
import type { InletKind, Menu, MenuItem } from "@bold-relay/core";
import Joi from "joi";
import { pointer } from "./route-parts.ts";
import { plainLines, plainText } from "./text.ts";

const web = Joi.string()
  .uri({ scheme: ["http", "https"] })
  .max(500);

const menuItem: Joi.ObjectSchema<MenuItem> = Joi.object({
  say: plainLines.max(300),
  phrase: plainText.max(300),
  menu: Joi.link("#phone"),
})
  .xor("phrase", "menu")
  .messages({
    "object.xor": "{{#label}} has either phrase or menu",
    "object.missing": "{{#label}} needs phrase or menu",
  });

export const menu = Joi.object<Menu>({
  say: plainLines.min(1).max(500).required(),
  keys: Joi.object()
    .pattern(/^[0-9#]$/, menuItem)
    .min(1)
    .max(11)
    .required(),
}).id("phone");

const pin = Joi.string()
  .pattern(/^\d{4,12}$/)
  .messages({ "string.pattern.base": "{{#label}} is 4 to 12 digits" });

/** One that is missing does not compile. */
export const inletSettings: Record<InletKind, Joi.ObjectSchema> = {
  web: Joi.object({}),
  hook: Joi.object({
    /** Where the words are, if a person wrote them. */
    text: pointer,
    sender: pointer,
  }),
  call: Joi.object({}),
  chat: Joi.object({ text: pointer, sender: pointer, room: pointer, name: pointer, replyUrl: web }),
  topic: Joi.object({
    /** Take what was kept at the broker as if it came now. Default false. */
    retained: Joi.boolean(),
    /** Tell a publisher that names a response topic what became of it. Default false. */
    answer: Joi.boolean(),
  }),
  line: Joi.object({
    port: Joi.number().integer().min(1).max(65_535).required(),
    host: Joi.string().hostname(),
    /** Lines are at most this many s apart. Default 600. */
    idleS: Joi.number().integer().min(10).max(86_400),
  }),
  sheet: Joi.object({
    url: web.required(),
    everyS: Joi.number().min(0.1).max(86_400),
    form: Joi.valid("rows", "cell"),
    writeUrl: web,
  }),
  keypad: Joi.object({
    menu: menu.required(),
    /** What leaves, at any place. Default "*". */
    leave: Joi.valid("*", "0", "#"),
    /** Asked for before the menu: 4 to 12 digits. It is kept hashed and never shown again. */
    pin,
    pinHash: Joi.string().max(300),
    /** Wrong keys before the call is ended. Default 3. */
    wrongKeys: Joi.number().integer().min(1).max(10),
  }),
  panel: Joi.object({
    items: Joi.array()
      .items(
        Joi.object({
          heading: plainText.trim().min(1).max(60),
          show: plainText.min(1).max(200),
          name: plainText.trim().min(1).max(60),
          acts: Joi.boolean(),
        })
          .xor("heading", "show")
          .with("name", "show")
          .with("acts", "show")
          .messages({
            "object.xor": "{{#label}} has either heading or show",
            "object.missing": "{{#label}} needs heading or show",
            "object.with": "{{#label}} has a heading, so it has no name and no acts",
          }),
      )
      .min(1)
      .max(60)
      .required(),
    acts: Joi.boolean(),
    pin,
    pinHash: Joi.string().max(300),
  }).required(),
  device: Joi.object({
    debounceMs: Joi.number().integer().min(0).max(1_000),
    doubleMs: Joi.number().integer().min(100).max(3_000),
    longMs: Joi.number().integer().min(300).max(30_000),
    releases: Joi.boolean(),
  }),
};
