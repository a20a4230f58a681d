/** Routes are added to and moved in the text of an inlet; what people wrote around them stays. */
import type { Route } from "@bold-relay/core";
import { describe, expect, it } from "vitest";
import { parse } from "yaml";
import { withMovedRoute, withRoute } from "../../src/parts/editor/route-text.ts";

const TEXT = `slug: hall # ours
routes:
  # the first button
  - when: { words: one }
    do: { target: wren/porch, action: on }
  # the second button
  - when: { words: two }
    do: { target: wren/hall, action: on }
`;
const NEW: Route = { name: "new", when: { words: "three" }, do: { target: "wren/path", action: "off" } };

const words = (text: string) =>
  (parse(text) as { routes: { when: { words?: string } }[] }).routes.map(({ when }) => when.words);

describe("a route", () => {
  it.each([
    [0, ["three", "one", "two"]],
    [1, ["one", "three", "two"]],
    [2, ["one", "two", "three"]],
  ])("is added at place %i, and comments stay", (at, order) => {
    const text = withRoute(TEXT, NEW, at, true);
    expect(words(text)).toEqual(order);
    expect(text).toContain("# ours");
    expect(text).toContain("# the second button");
  });

  it("is moved with its comment", () => {
    const text = withMovedRoute(TEXT, 1, 0);
    expect(words(text)).toEqual(["two", "one"]);
    expect(text.indexOf("# the second button")).toBeLessThan(text.indexOf("words: two"));
  });

  it("that is the first does not take away that phrases are read", () => {
    const routes = (readsPhrases: boolean) =>
      (parse(withRoute("slug: hall\n", NEW, 0, readsPhrases)) as { routes: Route[] }).routes.map(({ when }) => when);
    expect(routes(true)).toEqual([{ words: "three" }, { phrase: true }]);
    expect(routes(false)).toEqual([{ words: "three" }]);
  });

  it("changes nothing in a text that cannot be read", () => {
    expect(withRoute("slug: [", NEW, 0, true)).toBe("slug: [");
    expect(withMovedRoute("routes: none\n", 0, 1)).toBe("routes: none\n");
  });
});
