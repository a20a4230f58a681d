/** The page of payloads by example: each line of it is what the codec does. */
import { readFileSync } from "node:fs";
import { payloadForm } from "@bold-relay/api/schema";
import {
  bindCodec,
  type ChannelBinding,
  type CommandId,
  isGarbled,
  kindOf,
  type PayloadForm,
  parseValue,
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

/** @example bindingOf("relay, number 3, node 7") */
function bindingOf(channel: string): ChannelBinding {
  const kind = kindOf((channel.split(",")[0] ?? "") as "relay");
  const numberOf = (what: string) => new RegExp(`${what} (\\d+)`).exec(channel)?.[1];
  const [index, node] = [Number(numberOf("number") ?? 1), numberOf("node")];
  const binding = { slug: "porch", index, place: index - 1, kind, reversed: false };
  return node === undefined ? binding : { ...binding, node: Number(node) };
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
      const [value = "", time] = asked.split(" for ");
      const out = codec.encode(id, parseValue(value), time === undefined ? null : Number.parseInt(time, 10));
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
