/** Files in which people describe things: whatever stands in one is read, or refused with the reason, in bounded time. */
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import fc from "fast-check";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { stringify } from "yaml";
import { describedIn, readDescription } from "../src/description-file.ts";

const MB = 1_000_000;
let folder: string;

beforeAll(() => {
  folder = mkdtempSync(path.join(tmpdir(), "descriptions "));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

function file(content: string | Uint8Array): string {
  const name = path.join(folder, "site.yaml");
  writeFileSync(name, content);
  return name;
}

async function refusal(content: string | Uint8Array): Promise<string> {
  const name = file(content);
  try {
    await readDescription(name);
    return "";
  } catch (error) {
    const { message } = error as Error;
    expect(message.startsWith(`${name}: `)).toBe(true);
    return message.slice(name.length + 2);
  }
}

describe("what is read", () => {
  it("any JSON and any YAML of it, as it was", () => {
    const site = fc.record({ slug: fc.string(), rooms: fc.array(fc.record({ name: fc.string() })) });
    fc.assert(
      fc.property(site, (description) => {
        expect(describedIn(JSON.stringify(description))).toEqual(description);
        expect(describedIn(stringify(description))).toEqual(description);
      }),
    );
  });

  it("YAML that begins as JSON does", () => {
    expect(describedIn("{ slug: wren, rooms: [] }")).toEqual({ slug: "wren", rooms: [] });
  });

  it("nine megabytes of JSON", () => {
    const name = "x".repeat(9 * MB);
    expect(describedIn(JSON.stringify({ name }))).toEqual({ name });
  });
});

describe("what is refused, and why", () => {
  it("any bytes: a value or a reason, which no terminal obeys", async () => {
    await fc.assert(
      fc.asyncProperty(fc.uint8Array({ maxLength: 300 }), async (bytes) => {
        expect(await refusal(bytes)).not.toMatch(/(?!\n)[\p{Cc}\p{Cf}]/u);
      }),
      { numRuns: 300 },
    );
  });

  it.each([
    ["ten megabytes that are no text", () => Buffer.alloc(10 * MB, 0xfe), /^it is no text in UTF-8\.$/],
    ["more than the service takes", () => "a".repeat(11 * MB), /^it has 11000000 bytes; the service takes 10485760/],
    ["five million brackets", () => "[".repeat(5 * MB) + "]".repeat(5 * MB), /^more than 100 brackets stand open at/],
    ["five million braces in YAML", () => `a: ${"{b: ".repeat(2 * MB)}`, /^more than 100 brackets stand open at/],
    ["references that grow", () => aliases(30), /alias/i],
    ["a reference to what it stands in", () => "slug: a\nrooms: &a [*a]\n", /no end/],
    ["JSON that breaks off, near the limit", () => `{"name":"${"x".repeat(9 * MB)}`, /JSON/],
    ["a list that is no YAML", () => "rooms:\n  - slug: a\n bad", /line 3/],
  ])("%s", async (_about, content, reason) => {
    expect(await refusal(content())).toMatch(reason);
  });

  it("a file that is not there, a folder", async () => {
    await expect(readDescription(path.join(folder, "none.yaml"))).rejects.toThrow("there is no such file.");
    await expect(readDescription(folder)).rejects.toThrow("it is a folder.");
  });
});

/** Each level holds the one before four times. */
function aliases(levels: number): string {
  const lines = Array.from({ length: levels }, (_, level) => {
    const before = level === 0 ? "x" : `*a${level - 1}`;
    return `a${level}: &a${level} [${[before, before, before, before].join(", ")}]`;
  });
  return lines.join("\n");
}
