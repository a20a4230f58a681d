/**
 * A menu for telephones: an outside service that takes the calls posts what was pressed, {"call","digits","caller"}, and reads out
 * what comes back, {"say","end"}. Without digits the call begins. One key leaves at any place; wrong ones are counted. Who is
 * calling proves nothing: where there is a PIN, it is asked for first.
 */

import { randomUUID } from "node:crypto";
import { type ErrorCode, itemAt, type Menu, NO_ARRIVAL, RelayError } from "@bold-relay/core";
import Joi from "joi";
import { passwordMatches } from "../../auth/password.ts";
import { checked, parseJson, readText } from "../../http-exchange/body.ts";
import { callerFrom, noteAnswer, requireMethod, sendJson } from "../http-words.ts";
import type { HttpKind, Inlet, InletResult, RequestOrigin } from "../inlet.ts";
import type { Exchange, InletKindWay } from "../kind.ts";
import { PinTries } from "../pin-tries.ts";
import { needed } from "../trial-exchange.ts";
import { spoken } from "../words.ts";

interface Settings {
  readonly menu: Menu;
  readonly leave?: string;
  readonly pinHash?: string;
  readonly wrongKeys?: number;
}

interface Pressed {
  readonly call: string;
  readonly digits?: string;
  /** The number that calls, where the outside service knows it: wrong PINs are counted by it. It opens nothing. */
  readonly caller?: string;
}

interface Call {
  /** null: the PIN is still owed. */
  menu: Menu | null;
  wrong: number;
  until: number;
}

const pressedSchema = Joi.object<Pressed>({
  call: Joi.string().min(1).max(120).required(),
  caller: Joi.string().max(80),
  digits: Joi.string()
    .pattern(/^[0-9*#]{0,32}$/)
    .messages({ "string.pattern.base": "{{#label}} is what was pressed: 0-9, * and #" }),
})
  .required()
  .prefs({ abortEarly: false, convert: false });

/** A call that is quiet for so long is over. */
const CALL_MS = 300_000;
const MOST_CALLS = 500;
const WAIT_MS = 6_000;
const GOODBYE = "Goodbye.";

/** The calls that are open are kept here and nowhere else: a call does not outlive the service. */
function createKeypad(): HttpKind {
  const switchboard = new Switchboard();
  return {
    async serve(req, res, inlet, { keyOf, noteRefusal }) {
      const keyId = await keyOf(req);
      requireMethod(req, res, "POST");
      inlet.admit();
      const pressed = checked(pressedSchema, parseJson(await readText(req)));
      const spoken = await switchboard.press(pressed, inlet, callerFrom(req, keyId, WAIT_MS));
      if (spoken.refused !== undefined) noteRefusal(spoken.refused);
      if (spoken.result) noteAnswer(res, inlet, spoken.result, spoken.say);
      sendJson(res, 200, { say: spoken.say, end: spoken.end });
    },
  };
}

interface Spoken {
  readonly say: string;
  readonly end: boolean;
  /** What was asked by this key. */
  readonly result?: InletResult;
  /** Why the caller must wait. */
  readonly refused?: ErrorCode;
}

class Switchboard {
  /** By inlet and call, the quietest first. */
  private readonly calls = new Map<string, Call>();
  /** A new call for each guess must not help. */
  private readonly tries = new PinTries();

  async press({ call: id, digits = "", caller }: Pressed, inlet: Inlet, origin: RequestOrigin): Promise<Spoken> {
    const settings = inlet.description.settings as unknown as Settings;
    const { menu, leave = "*" } = settings;
    const key = `${inlet.description.slug} ${id}`;
    this.dropQuiet();
    const call = this.calls.get(key);
    if (!call) return this.begin(key, settings);
    this.keep(key, call);
    if (digits === leave) return this.hangUp(key, GOODBYE);
    if (call.menu === null)
      return this.takePin(key, call, digits, settings, { slug: inlet.description.slug, caller: caller ?? null });
    const item = itemAt(call.menu, digits);
    if (!item) return this.wrongKey(key, call, settings);
    call.wrong = 0;
    if (item.menu) {
      call.menu = item.menu;
      return { say: item.menu.say, end: false };
    }
    call.menu = menu;
    const arrival = { ...NO_ARRIVAL, text: item.phrase ?? "", digits };
    const result = await inlet.hear(arrival, origin);
    return { say: [item.say, spoken(result.reply), menu.say].filter(Boolean).join(" "), end: false, result };
  }

  private begin(key: string, { menu, pinHash }: Settings): Spoken {
    if (this.calls.size >= MOST_CALLS) throw new RelayError("service-busy", { why: "Too many calls are open" });
    this.keep(key, { menu: pinHash === undefined ? menu : null, wrong: 0, until: 0 });
    return { say: pinHash === undefined ? menu.say : "Please enter your PIN, then the hash key.", end: false };
  }

  private keep(key: string, call: Call): void {
    call.until = performance.now() + CALL_MS;
    this.calls.delete(key);
    this.calls.set(key, call);
  }

  private async takePin(
    key: string,
    call: Call,
    digits: string,
    settings: Settings,
    { slug, caller }: { slug: string; caller: string | null },
  ): Promise<Spoken> {
    let attempt: { right(): void };
    try {
      attempt = this.tries.begin(slug, caller);
    } catch (error) {
      if (!(error instanceof RelayError)) throw error;
      const said = this.hangUp(key, "Too many wrong PINs were entered here. Try again in some minutes.");
      return { ...said, refused: error.code };
    }
    if (!(await passwordMatches(settings.pinHash ?? null, digits.replace(/#$/, ""))))
      return this.wrongKey(key, call, settings, "That is not the PIN.");
    attempt.right();
    call.menu = settings.menu;
    return { say: settings.menu.say, end: false };
  }

  private wrongKey(
    key: string,
    call: Call,
    { wrongKeys = 3 }: Settings,
    why = "There is nothing on that key.",
  ): Spoken {
    call.wrong += 1;
    if (call.wrong >= wrongKeys) return this.hangUp(key, `${why} ${GOODBYE}`);
    return { say: `${why} ${call.menu?.say ?? "Please enter your PIN."}`, end: false };
  }

  private hangUp(key: string, say: string): Spoken {
    this.calls.delete(key);
    return { say, end: true };
  }

  private dropQuiet(): void {
    for (const [key, { until }] of this.calls) {
      if (performance.now() < until) break;
      this.calls.delete(key);
    }
  }
}

export const keypadWay: InletKindWay = {
  http: createKeypad,
  trial: ({ inlet, arrival, post }) =>
    keypadTrial(needed(arrival.digits, "the keys that are pressed"), (body) => post(inlet.description.slug, body)),
};

/** A call of its own: it begins, and then each key is pressed. */
async function keypadTrial(digits: string, press: (body: object) => Promise<Exchange>): Promise<Exchange[]> {
  const call = `try-${randomUUID()}`;
  const told = [await press({ call })];
  for (const key of digits) told.push(await press({ call, digits: key }));
  return told;
}
