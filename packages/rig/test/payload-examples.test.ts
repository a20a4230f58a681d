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
  readonly told: readonly string[];
  readonly heard: readonly string[];
}

function examplesIn(page: string): Example[] {
  return page.split(/^## /m).flatMap((section) => {
    const [title = ""] = section.split("\n");
    const codec = /```yaml codec of (\w+)(?: (\d+))?(?: node (\d+))?\n([\s\S]*?)```/.exec(section);
    if (!codec) return [];
    const [, kind = "", index = "1", node, yaml = ""] = codec;
    const lines = (what: string) =>
      (new RegExp(`\`\`\`text ${what}\\n([\\s\\S]*?)\`\`\``).exec(section)?.[1] ?? "")
        .trim()
        .split("\n")
        .filter(Boolean);
    const binding = {
      slug: "porch",
      index: Number(index),
      place: Number(index) - 1,
      kind: kindOf(kind as "relay"),
      reversed: false,
    };
    return {
      title,
      form: parse(yaml),
      binding: { ...binding, ...(node ? { node: Number(node) } : {}) },
      told: lines("told"),
      heard: lines("heard"),
    };
  });
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

  it.each(examples.map((one) => [one.title, one] as const))("%s", (_title, { form, binding, told, heard }) => {
    expect(payloadForm.validate(form).error).toBeUndefined();
    const codec = bindCodec(form, binding);
    for (const line of told) {
      const [asked = "", wire = ""] = line.split(" → ");
      const [value = "", time] = asked.split(" for ");
      const out = codec.encode(id, parseValue(value), time === undefined ? null : Number.parseInt(time, 10));
      expect([line, [...out]]).toEqual([line, [...bytesOf(wire)]]);
    }
    for (const line of heard) {
      const [payload = "", meant = ""] = line.split(" → ");
      const read = codec.decodeIs(bytesOf(payload));
      const means = read === null ? "none" : isGarbled(read) ? "unreadable" : String(read.value);
      expect([line, means]).toEqual([line, meant]);
    }
  });
});
