/** The plan of a translator: the broker, and each device with its credentials and the way it is reached. */
import { kindNames } from "@bold-relay/core";
import Joi from "joi";
import type { DescribedDevice } from "./described-device.ts";
import { type Reach, reachKinds } from "./reach/index.ts";

export interface BrokerAccess {
  /** mqtt:// or mqtts:// */
  readonly url: string;
  /** File with the certificate of whoever signed the broker's, PEM. */
  readonly ca?: string;
  /** Files with a certificate of its own and the key to it, PEM, where the broker asks for one. */
  readonly cert?: string;
  readonly key?: string;
}

export interface TranslatedDevice extends DescribedDevice {
  readonly reach: Reach;
}

export interface Plan {
  readonly broker: BrokerAccess;
  /** Where devices with a mailbox call. */
  readonly mailbox?: { readonly host: string; readonly port: number };
  readonly devices: readonly TranslatedDevice[];
}

const slug = Joi.string()
  .pattern(/^[a-z0-9-]{1,40}$/)
  .required();

const byReach = Joi.alternatives()
  .conditional(".by", {
    switch: Object.entries(reachKinds).map(([is, { schema: then }]) => ({ is, then })),
    otherwise: Joi.object({ by: Joi.valid(...Object.keys(reachKinds)).required() }).required(),
  })
  .required();

const planSchema = Joi.object<Plan>({
  broker: Joi.object({
    url: Joi.string()
      .uri({ scheme: ["mqtt", "mqtts"] })
      .required(),
    ca: Joi.string(),
    cert: Joi.string(),
    key: Joi.string(),
  })
    .and("cert", "key")
    .required(),
  mailbox: Joi.object({ host: Joi.string().hostname().required(), port: Joi.number().port().required() }),
  devices: Joi.array()
    .items(
      Joi.object({
        site: slug,
        device: slug,
        username: Joi.string().max(200),
        password: Joi.string().max(200),
        indexFrom: Joi.valid(0, 1),
        channels: Joi.array()
          .items(
            Joi.object({
              slug,
              kind: Joi.valid(...kindNames).required(),
              index: Joi.number().integer().min(0).max(65_535),
              reversed: Joi.boolean(),
            }),
          )
          .unique("slug")
          .min(1)
          .required(),
        reach: byReach,
      }),
    )
    .min(1)
    .unique((one: TranslatedDevice, other: TranslatedDevice) => one.site === other.site && one.device === other.device)
    .required(),
}).required();

/**
 * Checks a plan.
 *
 * @throws Error that names every mistake and where it is
 */
export function checkPlan(input: unknown): Plan {
  const { value, error } = planSchema.validate(input, { abortEarly: false, convert: false });
  if (error) throw new Error(error.details.map((one) => one.message).join("; "));
  if (value.mailbox === undefined && value.devices.some(({ reach }) => reach.by === "mailbox"))
    throw new Error('"mailbox" is needed: a device calls there for its next command');
  return value;
}

/** What is wrong with the form of a plan, each with its place, like `devices[0].reach.url`; empty: it is a plan. */
export function planMistakes(input: unknown): { readonly at: string; readonly text: string }[] {
  const { error } = planSchema.validate(input, {
    abortEarly: false,
    convert: false,
    errors: { wrap: { label: "“”" } },
  });
  if (error)
    return error.details.map(({ path, message }) => ({
      at: path
        .map((part) => (typeof part === "number" ? `[${part}]` : `.${part}`))
        .join("")
        .replace(/^\./, ""),
      text: message,
    }));
  try {
    checkPlan(input);
    return [];
  } catch (problem) {
    return [{ at: "", text: (problem as Error).message }];
  }
}
