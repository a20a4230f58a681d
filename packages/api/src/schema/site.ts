/** Joi schemas of profiles and sites, as they are loaded from files. */
import { channelKinds, codecNames, type DeliveryPolicy, type Profile, type SiteDescription } from "@bold-relay/core";
import Joi from "joi";

/** Slugs become topic levels: no wildcard, no slash, nothing that changes with case. */
const slug = Joi.string()
  .pattern(/^[a-z0-9](?:[a-z0-9-]{0,38}[a-z0-9])?$/)
  .messages({
    "string.pattern.base": "{{#label}} may hold small letters, digits and hyphens, 1 to 40, no hyphen at either end",
  });
const words = Joi.string().trim().min(1).max(80);
const ms = Joi.number().integer();

const delivery = Joi.object<Partial<DeliveryPolicy>>({
  aim: Joi.valid("published", "acknowledged", "confirmed"),
  reports: Joi.valid("always", "onChange"),
  ackWithinMs: ms.min(10).max(600_000),
  attempts: Joi.number().integer().min(1).max(10),
  ttlMs: ms.min(100).max(86_400_000),
  settleMs: ms.min(10).max(600_000),
  minGapMs: ms.min(0).max(60_000),
});

/** A topic pattern: plain levels and {site}, {device}, {channel}; no wildcard, no `$` at the start (MQTT 5, section 4.7). */
const topic = Joi.string()
  .max(200)
  .pattern(/^(?:[a-z0-9_-]+|\{(?:site|device|channel)\})(?:\/(?:[a-z0-9_-]+|\{(?:site|device|channel)\}))*$/i)
  .custom((pattern: string, helpers) =>
    pattern.includes("{site}") && pattern.includes("{device}") ? pattern : helpers.error("topic.shared"),
  )
  .messages({
    "string.pattern.base":
      "{{#label}} may hold topic levels of letters, digits, - and _, and {site}, {device}, {channel}",
    "topic.shared": "{{#label}} needs {site} and {device}, or two devices would share it",
  });
const channelTopic = topic
  .custom((pattern: string, helpers) => (pattern.includes("{channel}") ? pattern : helpers.error("topic.channel")))
  .messages({ "topic.channel": "{{#label}} needs {channel}, or a device's channels would share it" });

export const profileSchema = Joi.object<Profile>({
  slug: slug.required(),
  name: words.required(),
  codec: Joi.valid(...codecNames).required(),
  topics: Joi.object({
    do: channelTopic.required(),
    done: channelTopic.allow(null).required(),
    is: channelTopic.allow(null).required(),
    here: topic.allow(null).required(),
  }).required(),
  delivery: delivery.default({}),
});

const channel = Joi.object({
  slug: slug.required(),
  name: words.required(),
  kind: Joi.valid(...Object.keys(channelKinds)).required(),
  delivery,
});

const device = Joi.object({
  slug: slug.required(),
  name: words.required(),
  profile: slug.required(),
  channels: Joi.array().items(channel).min(1).max(512).unique("slug").required(),
});

const room = Joi.object({
  slug: slug.required(),
  name: words.required(),
  devices: Joi.array().items(device).max(2_000).required(),
});

export const siteSchema = Joi.object<SiteDescription>({
  slug: slug.required(),
  name: words.required(),
  rooms: Joi.array().items(room).max(1_000).unique("slug").required(),
})
  .custom((site: SiteDescription, helpers) => {
    const slugs = site.rooms.flatMap((each) => each.devices.map((one) => one.slug));
    const twice = slugs.find((one, index) => slugs.indexOf(one) !== index);
    return twice === undefined ? site : helpers.error("site.device", { twice });
  })
  .messages({ "site.device": "two devices of the site are called {{#twice}}" });
