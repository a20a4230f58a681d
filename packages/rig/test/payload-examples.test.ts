/** The page of payloads by example: each line of it is what the codec does. */
import { readFileSync } from "node:fs";
import { payloadForm } from "@bold-relay/api/schema";
import {
  bindCodec,
  type ChannelBinding,
  type CommandId,
  isGarbled,
  kindOfChannel,
  type PayloadForm,
  parseValue,
  type Value,
} from "@bold-relay/core";
import { describe, expect, it } from "vitest";
import { parse } from "yaml";

const PAGE = "docs/how-to/payload-examples.md";
const id = "01890000-0000-7000-8000-000000000001" as CommandId;

interface Example {
  readonly title: string;
  readonly form: PayloadForm;
  readonly binding: ChannelBinding;
  readonly sent: readonly string[];
  readonly received: readonly string[];
}

function examplesIn(page: string): Example[] {
  return page.split(/^## /m).flatMap((section) => {
    const [title = ""] = section.split("\n");
    const [, yaml] = /```yaml profile part\n([\s\S]*?)```/.exec(section) ?? [];
    const [, text = ""] = /```text\n([\s\S]*?)```/.exec(section) ?? [];
    if (yaml === undefined) return [];
    const lines = (what: string) =>
      text.split("\n").flatMap((line) => (line.startsWith(what) ? line.slice(what.length).trim() : []));
    return {
      title,
      form: parse(yaml).codec,
      binding: bindingOf(lines("channel")[0] ?? ""),
      sent: lines("sent"),
      received: lines("received"),
    };
  });
}

/** @example bindingOf("relay, number 3, node 7") @example bindingOf("setpoint, 5 to 28 in steps of 0.5") */
function bindingOf(channel: string): ChannelBinding {
  const [, least, most, step] = /(\d+) to (\d+) in steps of ([\d.]+)/.exec(channel) ?? [];
  const range = least === undefined ? null : { least: Number(least), most: Number(most), step: Number(step) };
  const kind = kindOfChannel({ kind: (channel.split(",")[0] ?? "") as "relay", range });
  const numberOf = (what: string) => new RegExp(`${what} (\\d+)`).exec(channel)?.[1];
  const [index, node] = [Number(numberOf("number") ?? 1), numberOf("node")];
  const binding = { slug: "porch", index, place: index - 1, kind, reversed: false };
  return node === undefined ? binding : { ...binding, node: Number(node) };
}

/** @example askedIn("on for 90000 ms") @example askedIn("on beside 5") */
function askedIn(asked: string): { readonly to: Value; readonly forMs: number | null; readonly others: number } {
  const [wanted = "", others = "0"] = asked.split(" beside ");
  const [value = "", time] = wanted.split(" for ");
  return {
    to: parseValue(value),
    forMs: time === undefined ? null : Number.parseInt(time, 10),
    others: Number(others),
  };
}

function bytesOf(text: string): Uint8Array {
  if (!text.startsWith("hex ")) return new TextEncoder().encode(text);
  return Uint8Array.from(
    text
      .slice(4)
      .split(" ")
      .map((byte) => Number.parseInt(byte, 16)),
  );
}

const examples = examplesIn(readFileSync(PAGE, "utf8"));

describe("payloads by example", () => {
  it("are there", () => {
    expect(examples.length).toBeGreaterThan(12);
  });

  it.each(examples.map((one) => [one.title, one] as const))("%s", (_title, { form, binding, sent, received }) => {
    expect(payloadForm.validate(form).error).toBeUndefined();
    const codec = bindCodec(form, binding);
    for (const line of sent) {
      const [asked = "", wire = ""] = line.split(" → ");
      const { to, forMs, others } = askedIn(asked);
      const out = codec.encode(id, to, forMs, others);
      expect([line, [...out]]).toEqual([line, [...bytesOf(wire)]]);
    }
    for (const line of received) {
      const [payload = "", meant = ""] = line.split(" → ");
      const read = codec.decodeIs(bytesOf(payload));
      const means = read === null ? "none" : isGarbled(read) ? "unreadable" : String(read.value);
      expect([line, means]).toEqual([line, meant]);
    }
  });
});
