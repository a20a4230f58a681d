/** The plan of a translator: the broker, and each device with its credentials and the way it is reached. */
import { readFileSync } from "node:fs";
import { payloadForm } from "@bold-relay/api/schema";
import { type KindName, kindNames, type PayloadForm } from "@bold-relay/core";
import Joi from "joi";
import { parse } from "yaml";

export interface BrokerAccess {
  /** mqtt:// or mqtts:// */
  readonly url: string;
  /** File with the certificate of whoever signed the broker's, PEM. */
  readonly ca?: string;
  /** Files with a certificate of its own and the key to it, PEM, where the broker asks for one. */
  readonly cert?: string;
  readonly key?: string;
}

export interface TranslatedDevice {
  readonly site: string;
  readonly device: string;
  /** Its own credentials at the broker, as any device has them. */
  readonly username?: string;
  readonly password?: string;
  /** What the device calls its first channel. Default 1. */
  readonly indexFrom?: 0 | 1;
  readonly channels: readonly {
    readonly slug: string;
    readonly kind: KindName;
    readonly index?: number;
    readonly reversed?: boolean;
  }[];
  readonly reach: Reach;
}

/** How a device is reached. */
type Reach = HttpReach | LinesReach | MailboxReach | RadioReach | LampStringReach;

/** Addresses of an HTTP device, one call for each command. */
export interface HttpReach {
  readonly by: "http";
  /** http:// or https://; nothing else is ever called, and redirects are not followed. */
  readonly url: string;
  /** Paths may hold {index}, {channel} and {value}. */
  readonly do: { readonly method: "GET" | "POST" | "PUT"; readonly path: string; readonly body?: boolean };
  /** Called once for each channel before its first command, and again whenever the device was away. */
  readonly mode?: { readonly method: "GET" | "POST" | "PUT"; readonly path: string };
  /** Where the device tells what a channel is. */
  readonly is?: { readonly path: string; readonly everyMs?: number };
  /** How bodies and {value} are written and read. Default bare words. */
  readonly form?: PayloadForm;
  /** Default 3000. */
  readonly timeoutMs?: number;
}

/** Typed lines over TCP: one connection, one command at a time. */
export interface LinesReach {
  readonly by: "lines";
  readonly host: string;
  readonly port: number;
  /** How commands, answers and reports are written: `do`, `done` and `is` of a text form. */
  readonly form: PayloadForm;
  /** What ends our lines. Default "crlf". */
  readonly ending?: "cr" | "lf" | "crlf";
  /** The device is ready once this has come. */
  readonly greeting?: string;
  /** Stands before the device's lines, or alone when it waits. */
  readonly prompt?: string;
  /** Answers that begin like this say no. Default ERR. */
  readonly refusals?: readonly string[];
  /** Asks what a channel is; may hold {index} and {channel}. */
  readonly query?: { readonly line: string; readonly everyMs?: number };
  /** The device closes a line that is quiet: that is no sign of trouble, and a new one is opened when it is needed. */
  readonly closesWhenQuiet?: boolean;
  /** Default 2000. */
  readonly timeoutMs?: number;
}

/** The device calls us: it asks for its next command and posts what came of it. */
export interface MailboxReach {
  readonly by: "mailbox";
  /** The key that the device shows, 16 to 200 characters. */
  readonly key: string;
  /** How long a command waits to be fetched and answered, ms. Default 10 000. */
  readonly timeoutMs?: number;
  /** Away when it has not asked for so long, ms. Default 60 000. */
  readonly silentAfterMs?: number;
}

/** A node behind a radio gateway on a serial line. */
export interface RadioReach {
  readonly by: "radio";
  /** A tty, like /dev/ttyUSB0, or tcp://host:port. Devices that name the same share it. */
  readonly port: string;
  /** The node's address, 1 to 65 534. */
  readonly node: number;
  /** How long the node may take to answer, ms. Default 3000. */
  readonly timeoutMs?: number;
}

/** A string of lamps on a serial line of its own: one channel of the kind lamps. */
export interface LampStringReach {
  readonly by: "lamps";
  /** A tty, like /dev/ttyUSB0, or tcp://host:port. */
  readonly port: string;
  /** How many there are, 1 to 2000. */
  readonly lamps: number;
  /** What is written, like "A5 {count} {lamps} {sum}"; see `lamp-string.ts`. */
  readonly frame: string;
  /** In which order a lamp takes its colours. Default "rgb". */
  readonly order?: "rgb" | "rbg" | "grb" | "gbr" | "brg" | "bgr";
  /** Whether it answers a frame at all. Default true. */
  readonly answers?: boolean;
  /** What it answers when it has shown a frame, in hexadecimal; anything else says no. Default 06. */
  readonly ack?: string;
  /** Default 1000. */
  readonly timeoutMs?: number;
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
const ms = (least: number, most: number) => Joi.number().integer().min(least).max(most);
const path = Joi.string().pattern(/^\//).max(300);
const method = Joi.valid("GET", "POST", "PUT").required();

const http = Joi.object({
  by: Joi.valid("http").required(),
  url: Joi.string()
    .uri({ scheme: ["http", "https"] })
    .required(),
  do: Joi.object({ method, path: path.required(), body: Joi.boolean() }).required(),
  mode: Joi.object({ method, path: path.required() }),
  is: Joi.object({ path: path.required(), everyMs: ms(100, 3_600_000) }),
  form: payloadForm,
  timeoutMs: ms(50, 60_000),
});

const lines = Joi.object({
  by: Joi.valid("lines").required(),
  host: Joi.string().hostname().required(),
  port: Joi.number().port().required(),
  form: payloadForm.required(),
  ending: Joi.valid("cr", "lf", "crlf"),
  greeting: Joi.string().max(200),
  prompt: Joi.string().max(40),
  query: Joi.object({ line: Joi.string().max(200).required(), everyMs: ms(100, 3_600_000) }),
  refusals: Joi.array().items(Joi.string().min(1).max(40)).max(20),
  closesWhenQuiet: Joi.boolean(),
  timeoutMs: ms(50, 60_000),
});

const mailbox = Joi.object({
  by: Joi.valid("mailbox").required(),
  key: Joi.string()
    .pattern(/^[\x21-\x7e]{16,200}$/)
    .messages({ "string.pattern.base": "{{#label}} is 16 to 200 visible characters without spaces" })
    .required(),
  timeoutMs: ms(50, 600_000),
  silentAfterMs: ms(50, 3_600_000),
});

const port = Joi.string()
  .pattern(/^(?:tcp:\/\/[\w.-]+:\d{1,5}|\/dev\/[\w./-]+)$/)
  .messages({ "string.pattern.base": "{{#label}} is a tty like /dev/ttyUSB0, or tcp://host:port" })
  .required();

const radio = Joi.object({
  by: Joi.valid("radio").required(),
  port,
  node: Joi.number().integer().min(1).max(65_534).required(),
  timeoutMs: ms(50, 60_000),
});

const lamps = Joi.object({
  by: Joi.valid("lamps").required(),
  port,
  lamps: Joi.number().integer().min(1).max(2_000).required(),
  frame: Joi.string()
    .max(200)
    .pattern(
      /^(?:[0-9A-Fa-f]{2}|\{count\}|\{sum\})?(?: ?(?:[0-9A-Fa-f]{2}|\{count\}|\{sum\}))* ?\{lamps\}(?: (?:[0-9A-Fa-f]{2}|\{sum\}))*$/,
    )
    .messages({
      "string.pattern.base":
        "{{#label}} holds bytes like A5, \\{count}, \\{lamps} once and \\{sum}, with spaces between",
    })
    .required(),
  order: Joi.valid("rgb", "rbg", "grb", "gbr", "brg", "bgr"),
  answers: Joi.boolean(),
  ack: Joi.string().pattern(/^[0-9A-Fa-f]{2}(?: ?[0-9A-Fa-f]{2}){0,7}$/),
  timeoutMs: ms(50, 60_000),
});

const reaches = { http, lines, mailbox, radio, lamps };
const byReach = Joi.alternatives()
  .conditional(".by", {
    switch: Object.entries(reaches).map(([by, then]) => ({ is: by, then })),
    otherwise: Joi.object({ by: Joi.valid(...Object.keys(reaches)).required() }).required(),
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

/** Reads a plan, YAML or JSON. @throws Error that names the file and every mistake */
export function readPlan(file: string): Plan {
  try {
    return checkPlan(parse(readFileSync(file, "utf8"), { maxAliasCount: 100 }));
  } catch (error) {
    throw new Error(`${file}: ${(error as Error).message}`, { cause: error });
  }
}
