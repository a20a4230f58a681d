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
  tolerance: Joi.number().min(0).max(50),
  whenAbsent: Joi.valid("hold", "refuse"),
  powerUp: Joi.valid("keep", "restore", "safe"),
  safe: Joi.alternatives(Joi.valid("on", "off"), Joi.number()).allow(null),
  autoOffMs: ms.min(1_000).max(86_400_000).allow(null),
  holdForMs: ms.min(200).max(60_000).allow(null),
  timesItself: Joi.boolean(),
  knowsRepeats: Joi.boolean(),
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
/** One for every channel, or one for the device: its answers then tell by their id, or by their turn, whose they are. */
const channelTopic = topic
  .custom((pattern: string, helpers) => (pattern.includes("{channel}") ? pattern : helpers.error("topic.channel")))
  .messages({ "topic.channel": "{{#label}} needs {channel}, or a device's channels would share it" });

export const profileSchema = Joi.object<Profile>({
  slug: slug.required(),
  name: words.required(),
  codec: Joi.valid(...codecNames).required(),
  topics: Joi.object({
    do: channelTopic.required(),
    done: topic.allow(null).required(),
    is: channelTopic.allow(null).required(),
    here: topic.allow(null).required(),
  }).required(),
  delivery: delivery.default({}),
  hearOthers: Joi.boolean(),
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

/** `device/channel`, within the site. */
const member = Joi.string()
  .pattern(/^[a-z0-9-]{1,40}\/[a-z0-9-]{1,40}$/)
  .messages({ "string.pattern.base": "{{#label}} names a channel of the site as device/channel" });
const members = Joi.array().items(member).min(1).max(512).unique();

const group = Joi.object({ slug: slug.required(), name: words.required(), channels: members.required() });

const scene = Joi.object({
  slug: slug.required(),
  name: words.required(),
  sets: Joi.array()
    .items(Joi.object({ channel: member.required(), action: words.required(), value: Joi.number() }))
    .min(1)
    .max(512)
    .unique("channel")
    .required(),
});

const interlock = Joi.object({
  name: words.required(),
  channels: members.min(2).required(),
  gapMs: ms.min(0).max(60_000),
  meets: Joi.valid("refuse", "switch-off").required(),
});

export const siteSchema = Joi.object<SiteDescription>({
  slug: slug.required(),
  name: words.required(),
  rooms: Joi.array().items(room).max(1_000).unique("slug").required(),
  groups: Joi.array().items(group).max(500).unique("slug"),
  scenes: Joi.array().items(scene).max(500).unique("slug"),
  interlocks: Joi.array().items(interlock).max(500),
})
  .custom((site: SiteDescription, helpers) => {
    const slugs = site.rooms.flatMap((each) => each.devices.map((one) => one.slug));
    const twice = slugs.find((one, index) => slugs.indexOf(one) !== index);
    if (twice !== undefined) return helpers.error("site.device", { twice });
    const bundles = [...(site.groups ?? []), ...(site.scenes ?? [])].map((one) => one.slug);
    const taken = bundles.find((one, index) => slugs.includes(one) || bundles.indexOf(one) !== index);
    if (taken !== undefined) return helpers.error("site.bundle", { taken });
    const missing = missingMember(site);
    return missing === null ? site : helpers.error("site.member", missing);
  })
  .messages({
    "site.device": "two devices of the site are called {{#twice}}",
    "site.bundle": "a group or scene is called {{#taken}} like another, or like a device",
    "site.member": "{{#of}} names {{#path}}, which is no channel of the site",
  });

/** The first group, scene or interlock that names a channel which the site does not have. */
function missingMember(site: SiteDescription): { of: string; path: string } | null {
  const devices = site.rooms.flatMap((one) => one.devices);
  const paths = new Set(devices.flatMap((one) => one.channels.map((channel) => `${one.slug}/${channel.slug}`)));
  const named = [
    ...(site.groups ?? []).map(({ slug: of, channels }) => ({ of, channels })),
    ...(site.scenes ?? []).map(({ slug: of, sets }) => ({ of, channels: sets.map((set) => set.channel) })),
    ...(site.interlocks ?? []).map(({ name: of, channels }) => ({ of, channels })),
  ];
  for (const { of, channels } of named) {
    const path = channels.find((one) => !paths.has(one));
    if (path !== undefined) return { of, path };
  }
  return null;
}
