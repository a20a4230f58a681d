/** Which cookie counts as a session's. */
import { describe, expect, it } from "vitest";
import { sessionToken } from "../../src/auth/identify.ts";

const token = (cookie: string, secure: boolean) => sessionToken({ headers: { cookie } }, secure);

describe("behind TLS", () => {
  it("a plain cookie, which a neighbouring host name can set, counts for nothing, alone or beside the other", () => {
    expect(token("relay_desk=theirs", true)).toBeNull();
    expect(token("relay_desk=theirs; __Host-relay_desk=mine", true)).toBe("mine");
    expect(token("__Host-relay_desk=mine; relay_desk=theirs", true)).toBe("mine");
    expect(token("x__Host-relay_desk=theirs", true)).toBeNull();
  });
});

describe("on plain HTTP", () => {
  it("the plain cookie counts, wherever it stands", () => {
    expect(token("a=b; relay_desk=mine; c=d", false)).toBe("mine");
    expect(token("other_relay_desk=theirs", false)).toBeNull();
    expect(token("", false)).toBeNull();
  });
});
