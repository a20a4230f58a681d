/**
 * Every kind of inlet. A new one is its name in `model.ts`, its file and line here, its settings in `api/src/schema/inlet-settings.ts`
 * and its way in, in `service/src/inlets/kinds/`: what is forgotten does not compile.
 */
import type { Arrival, InletDescription, InletKind } from "../model.ts";
import { call } from "./call.ts";
import { chat } from "./chat.ts";
import { device } from "./device.ts";
import { hook } from "./hook.ts";
import { keypad } from "./keypad.ts";
import type { CallerPlace, InletKindForm } from "./kind.ts";
import { line } from "./line.ts";
import { panel } from "./panel.ts";
import { sheet } from "./sheet.ts";
import { topic } from "./topic.ts";
import { web } from "./web.ts";

export const inletKinds: Readonly<Record<InletKind, InletKindForm>> = {
  web,
  hook,
  call,
  chat,
  topic,
  line,
  sheet,
  keypad,
  device,
  panel,
};

/** A description that has everything that its kind needs. */
export function exampleInlet(kind: InletKind, slug: string, name: string, site: string | null): InletDescription {
  return { slug, name, kind, site, ...inletKinds[kind].draft };
}

/** What to try an inlet with first. */
export function exampleArrival(inlet: InletDescription): Partial<Arrival> {
  const { example, exampleOf } = inletKinds[inlet.kind];
  return exampleOf?.(inlet) ?? example;
}

/** How a caller calls it, ready to paste; the key is left out. */
export function callerExample(inlet: InletDescription, place: CallerPlace): string {
  return inletKinds[inlet.kind].caller(inlet, place);
}

/**
 * What an arrival of programs or keys says in words, where it came without: for rehearsing what has not come.
 *
 * @example spoken("call", settings, { fields: { target: "porch", argument: "on" } }) // → text: “"porch" on”
 */
export function spoken(kind: InletKind, settings: Readonly<Record<string, unknown>>, arrival: Arrival): Arrival {
  const text = arrival.text ?? inletKinds[kind].spoken?.(arrival, settings) ?? null;
  return text === arrival.text ? arrival : { ...arrival, text };
}
