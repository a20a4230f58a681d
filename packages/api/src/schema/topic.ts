/** Joi schemas of topic patterns, as profiles, devices and channels have them. */
import Joi from "joi";

/** Levels that a message itself fills, by what its topic is for. */
const SAID_HOLES = {
  nothing: /(?!)/g,
  do: /(?<=^|\/)\{(?:value|id|number)\}(?=\/|$)/g,
  done: /(?<=^|\/)\{(?:result|id|number)\}(?=\/|$)/g,
} as const;
const ALSO = {
  nothing: "",
  do: ", and as a whole level {value}, {id} and {number}",
  done: ", and as a whole level {result}, {id} and {number}",
} as const;

/**
 * A topic pattern: any legal topic (MQTT 5, section 4.7), with {site}, {device}, {channel}, {index}. No wildcards, no control
 * characters, no `$` at the start.
 */
const topicSaying = (said: keyof typeof SAID_HOLES) =>
  Joi.string()
    .min(1)
    .max(200)
    .custom((pattern: string, helpers) => {
      // A first level that may be anything would cover the topics of everybody.
      const isOpen = /^\{(?:value|id|number|result)\}/.test(pattern);
      if (/[+#\p{Cc}\p{Cs}]/u.test(pattern) || pattern.startsWith("$") || isOpen) return helpers.error("topic.form");
      // What a message says in its topic is a level of its own.
      const own = pattern.replace(SAID_HOLES[said], "");
      const unknown = /\{(?!(?:site|device|channel|index)\})[^}]*\}?/.exec(own)?.[0];
      return unknown === undefined ? pattern : helpers.error("topic.hole", { unknown, also: ALSO[said] });
    })
    .messages({
      "topic.form":
        "{{#label}} may hold any character of a topic but + # and control characters, and may not begin with $ or with what differs with each message",
      "topic.hole": "{{#label}} has {{#unknown}}; it may have \\{site}, \\{device}, \\{channel} and \\{index}{{#also}}",
    });

export const topic = topicSaying("nothing");

export const channelTopics = {
  do: topicSaying("do").allow(null),
  stop: topic.allow(null),
  ask: topic.allow(null),
  done: topicSaying("done").allow(null),
  is: topicSaying("do").allow(null),
};
