/** Errors: sentences that are filled in. */
import { describe, expect, it } from "vitest";
import { type ErrorCode, errorCatalogue, RelayError } from "../src/index.ts";

describe("an error", () => {
  it("fills its sentence with facts, and offers what is near", () => {
    const error = new RelayError("unknown-channel", { target: "gaet", nearest: ["a/b/gate", "a/c/gate"] });
    expect(error.message).toBe(
      "No channel, group or scene is called “gaet”. Nothing was sent. Nearest: a/b/gate or a/c/gate.",
    );
    expect(new RelayError("unknown-channel", { target: "x", nearest: [] }).message).toContain(
      "Nothing has a name like it.",
    );
  });

  it("never fills in what a caller wrote as if it were one of ours", () => {
    expect(new RelayError("unknown-channel", { target: "{choices}", nearest: [] }).message).toContain("“{choices}”");
  });

  it("leaves no brace open with the facts that its sentence names", () => {
    for (const [code, { sentence }] of Object.entries(errorCatalogue)) {
      const facts = Object.fromEntries([...sentence.matchAll(/\{(\w+)\}/g)].map(([, fact]) => [fact, "x"]));
      expect(new RelayError(code as ErrorCode, facts).message).not.toMatch(/[{}]/);
    }
  });
});
