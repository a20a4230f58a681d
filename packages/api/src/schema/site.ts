/** Joi schemas of profiles and sites, as they are loaded from files. */
import {
  type Calibration,
  type ChannelRange,
  channelKinds,
  type DeliveryPolicy,
  MADE,
  type Profile,
  type SiteDescription,
  saysInTopic,
} from "@bold-relay/core";
import Joi from "joi";
import type { ProfileTrialBody } from "../device-view.ts";
import { channelWordsSchema, payloadForm } from "./payload-form.ts";
import { plainText, timeZone } from "./text.ts";
import { channelTopics, topic } from "./topic.ts";

/** Slugs become topic levels: no wildcard, no slash, nothing that changes with case. */
const slug = Joi.string()
  .pattern(/^[a-z0-9](?:[a-z0-9-]{0,38}[a-z0-9])?$/)
  .messages({
    "string.pattern.base": "{{#label}} may hold small letters, digits and hyphens, 1 to 40, no hyphen at either end",
  });
const words = plainText.trim().min(1).max(80);
const ms = Joi.number().integer();

/** Names of fields stand in the quotation marks of every other message. */
const QUOTED = { errors: { wrap: { label: "“”" } } } as const;

const delivery = Joi.object<Partial<DeliveryPolicy>>({
  targetStage: Joi.valid("published", "acknowledged", "confirmed"),
  reports: Joi.valid("always", "onChange"),
  reportsEveryMs: ms.min(1_000).max(86_400_000).allow(null),
  ackWithinMs: ms.min(10).max(600_000),
  attempts: Joi.number().integer().min(1).max(10),
  ttlMs: ms.min(100).max(86_400_000),
  settleMs: ms.min(10).max(600_000),
  minGapMs: ms.min(0).max(60_000),
  tolerance: Joi.number().min(0).max(65_535),
  stillMs: Joi.number().integer().min(100).max(600_000).allow(null),
  askAfterMs: ms.min(50).max(600_000).allow(null),
  askEveryMs: ms.min(1_000).max(86_400_000).allow(null),
  offlineAfterMs: ms.min(2_000).max(86_400_000).allow(null),
  whenAbsent: Joi.valid("hold", "refuse"),
  powerUp: Joi.valid("keep", "restore", "safe"),
  safe: Joi.alternatives(Joi.valid("on", "off"), Joi.string().pattern(/^#[0-9a-f]{6}$/), Joi.number()).allow(null),
  autoOffMs: ms.min(1_000).max(86_400_000).allow(null),
  holdForMs: ms.min(200).max(60_000).allow(null),
  timesItself: Joi.boolean(),
  knowsRepeats: Joi.boolean(),
});

/** The body of POST /api/v1/devices/<site>/<device>/credentials. */
export const newCredentialsSchema = Joi.object<{ overlapHours?: number }>({
  overlapHours: Joi.number().min(0).max(720),
})
  .required()
  .label("body")
  .prefs({ abortEarly: false, convert: false });

/** The body of `PUT /profiles/:profile`. */
export const profileSchema = Joi.object<Profile>({
  slug: slug.required(),
  name: words.required(),
  codec: payloadForm.required(),
  indexFrom: Joi.valid(0, 1),
  topics: Joi.object({
    ...channelTopics,
    do: channelTopics.do.required(),
    done: channelTopics.done.required(),
    is: channelTopics.is.required(),
    here: topic.allow(null).required(),
  }).required(),
  delivery: delivery.default({}),
  hearOthers: Joi.boolean(),
  retainCommands: Joi.boolean(),
  requestResponse: Joi.boolean(),
})
  .custom((profile: Profile, helpers) => {
    const { topics, requestResponse, retainCommands } = profile;
    if (topics.do === null && topics.is === null)
      return helpers.message({ custom: "“topics” has neither “do” nor “is”: the device would have no channels" });
    if (topics.ask && topics.is === null)
      return helpers.message({ custom: "“topics.ask” needs “topics.is”: nothing could be heard of what it answers" });
    const ownWord = (["ask", "stop"] as const).find((role) => writtenByDevice(topics).includes(topics[role] ?? null));
    if (ownWord)
      return helpers.message({
        custom: `“topics.${ownWord}” is a topic that the device writes to itself: it would not read there`,
      });
    if (requestResponse && topics.done === null)
      return helpers.message({
        custom: "“requestResponse” needs “topics.done”: that is the response topic of its commands",
      });
    if (retainCommands && topics.do !== null && saysInTopic(topics.do))
      return helpers.message({ custom: "“retainCommands” needs a “topics.do” that is the same for all commands" });
    if (topics.stop && topics.do === null)
      return helpers.message({ custom: "“topics.stop” needs “topics.do”: what takes no commands has nothing to stop" });
    if (
      topics.do !== null &&
      topics.do === topics.is &&
      (profile.delivery.targetStage ?? "confirmed") === "confirmed"
    ) {
      return helpers.message({
        custom:
          "“topics.do” and “topics.is” are the same: a report cannot be told from a command, so “delivery.targetStage” must be acknowledged or published",
      });
    }
    return profile;
  })
  .prefs(QUOTED);

function writtenByDevice({ is, done, here }: Profile["topics"]): (string | null)[] {
  return [is, done, here].filter((topic) => topic !== null);
}

/** `device/channel`, within the site. */
const member = Joi.string()
  .pattern(/^[a-z0-9-]{1,40}\/[a-z0-9-]{1,40}$/)
  .messages({ "string.pattern.base": "{{#label}} names a channel of the site as device/channel" });

const channel = Joi.object({
  slug: slug.required(),
  name: words.required(),
  kind: Joi.valid(...Object.keys(channelKinds)).required(),
  index: Joi.number().integer().min(0).max(65_535),
  node: Joi.alternatives(Joi.number().integer().min(0).max(65_535), Joi.string().min(1).max(40)),
  reversed: Joi.boolean(),
  unit: plainText.trim().min(1).max(12),
  range: Joi.object<ChannelRange>({
    least: Joi.number().required(),
    most: Joi.number().required(),
    step: Joi.number().min(0.001).max(1_000_000),
  }),
  topics: Joi.object(channelTopics).min(1),
  words: channelWordsSchema,
  calibration: Joi.object<Calibration>({
    least: Joi.number().min(0).max(99),
    most: Joi.number().min(1).max(100),
    curve: Joi.number().min(0.2).max(5),
    trim: Joi.number().min(50).max(150),
    rampMs: ms.min(0).max(600_000),
  }),
  drive: Joi.valid("set", "impulse", "flip"),
  seenBy: Joi.alternatives(
    Joi.object({ channel: member.required(), above: Joi.number(), below: Joi.number(), turned: Joi.boolean() }),
    Joi.object({ open: member.required(), shut: member.required(), movesWithinMs: ms.min(1_000).max(3_600_000) }),
  ),
  made: Joi.valid(...MADE),
  inAll: Joi.boolean(),
  delivery,
});

const device = Joi.object({
  slug: slug.required(),
  name: words.required(),
  profile: slug.required(),
  topics: Joi.object({ ...channelTopics, here: topic.allow(null) }).min(1),
  channels: Joi.array().items(channel).min(1).max(512).unique("slug").required(),
});

const room = Joi.object({
  slug: slug.required(),
  name: words.required(),
  devices: Joi.array().items(device).max(2_000).required(),
});

const members = Joi.array().items(member).min(1).max(512).unique();

const group = Joi.object({ slug: slug.required(), name: words.required(), channels: members.required() });

const scene = Joi.object({
  slug: slug.required(),
  name: words.required(),
  sets: Joi.array()
    .items(
      Joi.object({
        channel: member.required(),
        action: words.required(),
        value: Joi.alternatives(Joi.number(), Joi.string().trim().min(1).max(1_000)),
      }),
    )
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

/** The body of `POST /sites/:site/check`, `PUT /sites/:site/description`. */
export const siteSchema = Joi.object<SiteDescription>({
  slug: slug.required(),
  name: words.required(),
  timeZone,
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
  })
  .prefs(QUOTED);

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

/** The body of POST /api/v1/profiles/try. */
export const profileTrialSchema = Joi.object<ProfileTrialBody>({
  profile: Joi.alternatives(slug, profileSchema).required(),
  site: slug,
  device: Joi.object({
    slug: slug.required(),
    topics: Joi.object({ ...channelTopics, here: topic.allow(null) }).min(1),
    channels: Joi.array().items(channel).min(1).max(512).unique("slug").required(),
  }).required(),
  messages: Joi.array()
    .items(
      Joi.object({
        topic: Joi.string().min(1).max(200).required(),
        text: Joi.string().allow("").max(4_096),
        hex: Joi.string()
          .pattern(/^(?:[0-9a-f]{2}\s?)*$/i)
          .max(12_288)
          .messages({ "string.pattern.base": "{{#label}} holds bytes in hexadecimal, like A0 01" }),
        retained: Joi.boolean(),
      }).xor("text", "hex"),
    )
    .max(200),
})
  .required()
  .label("body")
  .prefs({ abortEarly: false, convert: false, errors: { wrap: { label: "“”" } } });
