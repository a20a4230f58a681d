/** What is ambiguous about the payloads of a profile, for one channel: words that mean two things, reports that read like answers. */
import { kindOf } from "../channel/index.ts";
import { readsNumbers } from "../channel/kind.ts";
import { isColour, type Value } from "../channel/value.ts";
import { MOST_BITS } from "../codec/bits.ts";
import { type ChannelBinding, type ChannelCodec, isGarbled } from "../codec/codec.ts";
import { bindCodec, bindFirmware } from "../codec/index.ts";
import { type Meaning, readNumber } from "../codec/meaning.ts";
import type { PayloadForm, PlainForm } from "../codec/payload-form.ts";
import { WORD_VALUES } from "../codec/word-values.ts";
import { wordConflicts, wordFor } from "../codec/words.ts";

/** Every plain form that a form is put together of, with what it is for. */
function partsOf(form: PayloadForm): { readonly of: string; readonly form: PlainForm }[] {
  if (typeof form === "string" || form.form !== "apart") return [{ of: "", form }];
  const { do: told, done, is } = form;
  return [
    { of: "do: ", form: told },
    ...(done === undefined ? [] : [{ of: "done: ", form: done }]),
    ...(is === undefined ? [] : [{ of: "is: ", form: is }]),
  ];
}

/** @returns what is ambiguous, in words; empty when nothing is */
export function formConflicts(form: PayloadForm, binding: ChannelBinding): string[] {
  return partsOf(form).flatMap(({ of, form: part }) => {
    if (typeof part === "string") return [];
    const meaning: Meaning = part;
    const conflicts = [
      ...wordConflicts(meaning, binding),
      ...levelConflicts(meaning, binding),
      ...bitConflicts(part, binding),
    ];
    return conflicts.map((text) => `${of}${text}`);
  });
}

/** A number that stands for on or off, and is a level as well that is neither. */
function levelConflicts(meaning: Meaning, binding: ChannelBinding): string[] {
  const { range } = binding.kind;
  if (!range) return [];
  const [from, to] = meaning.range ?? [range.least, range.most];
  const [low, high] = [Math.min(from, to), Math.max(from, to)];
  return WORD_VALUES.flatMap((value) => {
    const word = wordFor(value, meaning, binding);
    const number = typeof word === "boolean" ? null : readNumber(word);
    if (number === null || number < low || number > high) return [];
    const end = value === "on" || value === "open" ? to : value === "off" || value === "shut" ? from : null;
    return number === end ? [] : [`${value} is written ${JSON.stringify(word)}, which is also a level`];
  });
}

function bitConflicts(form: Exclude<PlainForm, string>, { kind, place = 0 }: ChannelBinding): string[] {
  const isList = form.form === "text" && form.do?.includes("{list}") === true;
  if (!form.bits && !isList) return [];
  const most = isList ? form.listLength : MOST_BITS;
  if (most === undefined) return ["do tells a {list}, and listLength does not say of how many outputs"];
  if (kind.range !== null || isColour(kind.rest) || readsNumbers(kind) || !kind.repeatable)
    return [`a ${kind.name} is more than on or off, and a message that tells all outputs has no room for that`];
  return place < most ? [] : [`a message tells ${most} outputs, and this is number ${place + 1}`];
}

/**
 * What a value cannot be written as in a topic: a level may not be empty, nor hold a slash or a wildcard (MQTT 5, 4.7).
 *
 * @returns the text of such a value; null: all can be
 */
export function unfitForTopics(form: PayloadForm, binding: ChannelBinding): string | null {
  const { aside } = bindCodec(form, binding);
  const { kind } = binding;
  const asked = Object.values(kind.actions).flatMap((action) => (action.asks === "to" ? [action.to] : []));
  const texts = [kind.full, kind.rest, ...asked].map((value) => String(aside.write(value)));
  return texts.find((text) => text === "" || /[/+#\0]/.test(text)) ?? null;
}

/** Whether a payload names its channel, by what it is for. */
export function namesChannelIn(form: PayloadForm): ChannelCodec["namesChannel"] {
  return bindCodec(form, { slug: "channel", index: 1, kind: kindOf("relay"), reversed: false }).namesChannel;
}

/** Whether a report of this channel would be read as an acknowledgement, where one topic carries both. */
export function answersLikeReports(form: PayloadForm, binding: ChannelBinding): boolean {
  const codec = bindCodec(form, binding);
  const firmware = bindFirmware(form, binding);
  const { kind } = binding;
  const levels = kind.range ? Array.from({ length: 11 }, (_, tenth) => levelAt(kind.range, tenth / 10)) : [];
  const values: Value[] = [kind.full, kind.rest, ...levels];
  return values.some((value) => {
    const answer = codec.decodeDone(firmware.report(value, null, null));
    return answer !== null && !isGarbled(answer);
  });
}

function levelAt(range: { readonly least: number; readonly most: number } | null, share: number): number {
  return range ? Math.round(range.least + share * (range.most - range.least)) : 0;
}
