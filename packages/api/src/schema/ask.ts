/** Joi schemas of what may be asked. Unknown fields are refused, never dropped. Long because it is one list, a body after the other. */
import { isFilter, ROLES, STAGES } from "@bold-relay/core";
import Joi from "joi";
import {
  type AskBody,
  type CancelBody,
  type ConfirmAppBody,
  type LeaderBody,
  LOG_RESULTS,
  type LockOutBody,
  type LogQuery,
  type MemberBody,
  type NewKeyBody,
  type NewMemberBody,
  type NewPasskeyBody,
  type PasskeySignInBody,
  type PasswordAgainBody,
  type PasswordBody,
  type PublishBody,
  type ReleaseBody,
  type ResetBody,
  type ResetCheckBody,
  type SecondFactorBody,
  type SetupBody,
  type ShardBody,
  type ShardCountBody,
  type SignInBody,
  type StepAnswerBody,
  type TeamRulesBody,
  type WireQuery,
} from "../ask.ts";
import { memberName, plainText, timeZone } from "./text.ts";

/** Set once at the schema: handing options to each `validate` costs more than the validation. */
const strict: Joi.ValidationOptions = { abortEarly: false, convert: false, errors: { wrap: { label: "“”" } } };

const ask = {
  target: plainText.min(1).max(200).required(),
  action: plainText.min(1).max(40).required(),
  value: Joi.alternatives(Joi.number().unsafe(), plainText.min(1).max(1_000)),
  // Whatever the number: what may be asked is the same for every way of asking, and is refused there.
  forMs: Joi.number().unsafe(),
  until: Joi.valid(...STAGES.slice(1)),
};

/** The body of `POST /requests`, `POST /requests/rehearse`. */
export const askSchema = Joi.object<AskBody>(ask).required().label("body").prefs(strict);

/** At an inlet the caller may also say for whom it asks. */
export const inletAskSchema = Joi.object<AskBody>({ ...ask, sender: plainText.min(1).max(80) })
  .required()
  .label("body")
  .prefs(strict);

const PLAIN = /^[\x20-\x7e]+$/;
const UNTIL: readonly unknown[] = STAGES.slice(1);

/** Whether a text is right whatever else may be: printable ASCII, from 1 to so many characters. */
function isPlain(text: unknown, most: number): boolean {
  return typeof text === "string" && text.length <= most && PLAIN.test(text);
}

/**
 * The body of a usual request to an inlet, known to be right without going through the schema, which is a good part of what
 * a request costs. Says yes only to what `inletAskSchema` lets through as it is; a test compares them.
 *
 * @returns null: let the schema see
 */
export function usualAsk(body: unknown): AskBody | null {
  if (typeof body !== "object" || body === null || Array.isArray(body)) return null;
  for (const name in body) if (!isUsual(name, (body as Record<string, unknown>)[name])) return null;
  const { target, action } = body as Partial<AskBody>;
  return target === undefined || action === undefined ? null : (body as AskBody);
}

function isUsual(name: string, value: unknown): boolean {
  switch (name) {
    case "target":
      return isPlain(value, 200);
    case "action":
      return isPlain(value, 40);
    case "sender":
      return isPlain(value, 80);
    case "value":
      return Number.isSafeInteger(value);
    default:
      return name === "until" && UNTIL.includes(value);
  }
}

/** The body of `POST /lockouts`. */
export const lockOutSchema = Joi.object<LockOutBody>({
  target: plainText.min(1).max(200).required(),
  reason: plainText.min(1).max(200),
})
  .required()
  .label("body")
  .prefs(strict);

/** The body of `POST /lockouts/:id/release`. */
export const releaseSchema = Joi.object<ReleaseBody>({ reason: plainText.min(1).max(200) })
  .required()
  .label("body")
  .prefs(strict);

/** The body of `POST /requests/:id/close`. */
export const cancelSchema = Joi.object<CancelBody>({ reason: plainText.min(1).max(200).required() })
  .required()
  .label("body")
  .prefs(strict);

/** The body of `GET /session`. */
export const passwordSchema = Joi.object<PasswordBody>({
  password: Joi.string().min(1).max(200).required(),
  next: Joi.string().min(1).max(200).required(),
  endKeys: Joi.boolean(),
})
  .required()
  .label("body")
  .prefs(strict);

const ticket = Joi.string().max(100).required();
/** What it holds is the browser's affair, and is checked against its signature. */
const passkey = Joi.object().unknown(true);

/** The body of `POST /session/second`. */
export const secondFactorSchema = Joi.object<SecondFactorBody>({
  ticket,
  code: Joi.string().max(20),
  recoveryCode: Joi.string().max(40),
  passkey,
})
  .xor("code", "recoveryCode", "passkey")
  .required()
  .label("body")
  .prefs(strict);

/** The body of `POST /session/passkey`. */
export const passkeySignInSchema = Joi.object<PasskeySignInBody>({ ticket, passkey: passkey.required() })
  .required()
  .label("body")
  .prefs(strict);

/** The body of `POST /session/reset`. */
export const resetSchema = Joi.object<ResetBody>({
  token: Joi.string().max(100).required(),
  password: Joi.string().min(1).max(200).required(),
  endKeys: Joi.boolean(),
})
  .required()
  .label("body")
  .prefs(strict);

/** The body of `POST /session/reset/check`. */
export const resetCheckSchema = Joi.object<ResetCheckBody>({ token: Joi.string().max(100).required() })
  .required()
  .label("body")
  .prefs(strict);

/** The body of `POST /setup`. */
export const setupSchema = Joi.object<SetupBody>({
  token: Joi.string().max(100).required(),
  name: memberName.required(),
  password: Joi.string().min(1).max(200).required(),
})
  .required()
  .label("body")
  .prefs(strict);

/** The body of `PUT /account/app`. */
export const confirmAppSchema = Joi.object<ConfirmAppBody>({ code: Joi.string().max(20).required() })
  .required()
  .label("body")
  .prefs(strict);

/** The body of `GET /account`, `POST /account/app/off`, `POST /account/passkeys/options`. */
export const passwordAgainSchema = Joi.object<PasswordAgainBody>({ password: Joi.string().min(1).max(200).required() })
  .required()
  .label("body")
  .prefs(strict);

/** The body of `POST /account/passkeys`. */
export const newPasskeySchema = Joi.object<NewPasskeyBody>({
  ticket,
  name: plainText.trim().min(1).max(80).required(),
  passkey: passkey.required(),
})
  .required()
  .label("body")
  .prefs(strict);

/** The body of `GET /team/rules`. */
export const teamRulesSchema = Joi.object<TeamRulesBody>({
  secondFactorFor: Joi.array()
    .items(Joi.valid(...ROLES))
    .unique()
    .required(),
})
  .required()
  .label("body")
  .prefs(strict);

const shardNumber = Joi.number().integer().min(0).max(255);

/** The body of `PUT /cluster/leader`. */
export const leaderSchema = Joi.object<LeaderBody>({
  instance: plainText.min(1).max(128).allow(null).required(),
  shard: shardNumber,
})
  .required()
  .label("body")
  .prefs(strict);

/** The body of `PUT /cluster/shards`. */
export const shardCountSchema = Joi.object<ShardCountBody>({ count: Joi.number().integer().min(1).max(256).required() })
  .required()
  .label("body")
  .prefs(strict);

/** The body of `PUT /sites/:site/shard`. */
export const shardSchema = Joi.object<ShardBody>({ shard: shardNumber.required() })
  .required()
  .label("body")
  .prefs(strict);

const roles = {
  role: Joi.valid(...ROLES),
  sites: Joi.array()
    .items(Joi.object({ site: plainText.max(40).required(), role: Joi.valid(...ROLES.slice(0, -1)).required() }))
    .max(1_000)
    .unique("site"),
};

/** The body of `PUT /members/:name`. */
export const memberSchema = Joi.object<MemberBody>(roles).required().label("body").prefs(strict);

/** The query of `DELETE /members/:name`: what becomes of the keys of inlets that they have created. */
export const memberDeletionSchema = Joi.object<{ inletKeys?: "keep" | "revoke" }>({
  inletKeys: Joi.valid("keep", "revoke"),
}).prefs(strict);

/** The body of `POST /members`. */
export const newMemberSchema = Joi.object<NewMemberBody>({
  name: memberName.required(),
  invite: Joi.boolean(),
  ...roles,
})
  .required()
  .label("body")
  .prefs(strict);

/** The body of `POST /keys`. */
export const newKeySchema = Joi.object<NewKeyBody>({
  name: plainText.trim().min(1).max(80).required(),
  inlet: plainText.min(1).max(40),
  most: Joi.valid(...ROLES),
  sites: Joi.array().items(plainText.max(40)).min(1).max(1_000).unique(),
  expiresInDays: Joi.number().integer().min(1).max(3_650).allow(null),
  overlapHours: Joi.number().min(0).max(720),
  exports: Joi.boolean(),
})
  .required()
  .label("body")
  .prefs(strict);

/** The query of `GET /channels/:site/:device/:channel/history`. */
export const historyQuerySchema = Joi.object<{ zone?: string; before?: Date; limit?: number }>({
  zone: timeZone,
  before: Joi.date().iso(),
  limit: Joi.number().integer().min(1).max(500),
}).prefs({ ...strict, convert: true });

/** The query of `GET /channels/:site/:device/:channel/trend`. */
export const trendQuerySchema = Joi.object<{ days?: number }>({ days: Joi.number().integer().min(1).max(90) }).prefs({
  ...strict,
  convert: true,
});

/** The query of `GET /audit`. */
export const auditQuerySchema = Joi.object<{ before?: string }>({ before: Joi.string().lowercase().uuid() }).prefs({
  ...strict,
  convert: true,
});

/** The body of `POST /session`. */
export const signInSchema = Joi.object<SignInBody>({
  name: plainText.min(1).max(80).required(),
  password: Joi.string().min(1).max(200).required(),
})
  .required()
  .label("body")
  .prefs(strict);

/** The query of `GET /requests`, `GET /requests.:form`. */
export const logQuerySchema = Joi.object<LogQuery>({
  limit: Joi.number().integer().min(1).max(200),
  before: Joi.string().lowercase().uuid(),
  site: plainText.min(1).max(64),
  channel: plainText.min(1).max(200),
  asker: plainText.min(1).max(80),
  result: Joi.valid(...LOG_RESULTS),
  words: plainText.min(2).max(80),
})
  // A query holds only text: here a number may be written as one.
  .prefs({ ...strict, convert: true });

/** The query of `GET /wire`. */
export const wireQuerySchema = Joi.object<WireQuery>({
  filter: Joi.string()
    .min(1)
    .max(200)
    .custom((filter: string, helpers) => (isFilter(filter) ? filter : helpers.error("filter.form")))
    .messages({
      "filter.form": "{{#label}} is no topic filter: + stands for one whole level, # for all the rest, at the end",
    })
    .required(),
  all: Joi.boolean(),
}).prefs({ ...strict, convert: true });

/** The body of `POST /wire`. */
export const publishSchema = Joi.object<PublishBody>({
  topic: plainText
    .min(1)
    .max(200)
    .pattern(/^[^$+#][^+#]*$/)
    .messages({ "string.pattern.base": "{{#label}} may hold no wildcard, no control character, and not begin with $" })
    .required(),
  payload: Joi.string().allow("").max(4_096),
  as: Joi.valid("text", "hex"),
  qos: Joi.valid(0, 1),
  clear: Joi.boolean(),
  confirm: Joi.boolean(),
})
  .custom((body: PublishBody, helpers) => {
    if (body.as !== "hex" || /^(?:[0-9a-f]{2} ?)*$/i.test(body.payload ?? "")) return body;
    return helpers.message({ custom: "“payload” holds bytes in hexadecimal, like A0 01" });
  })
  .required()
  .label("body")
  .prefs(strict);

/** The body of `POST /devices/:site/:device/commissioning/step`. */
export const stepAnswerSchema = Joi.object<StepAnswerBody>({
  step: plainText.min(1).max(80).required(),
  answer: Joi.valid("go", "yes", "no", "turned", "skip").required(),
  note: plainText.min(1).max(200),
})
  .required()
  .label("body")
  .prefs(strict);
