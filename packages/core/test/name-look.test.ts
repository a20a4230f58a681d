/** Whether two names can be told apart by people who read them. */
import { describe, expect, it } from "vitest";
import { nameLook } from "../src/index.ts";

describe("two names", () => {
  it.each([
    ["Ines", "INES"],
    ["Ines", "lnes"],
    ["Ines", "1nes"],
    ["Pop", "Рор"],
    ["Tomas", "Tornas"],
    ["Otto", "0tto"],
    ["Nora", "Νοra"],
    ["Rui Costa", "Rui  Costa"],
    ["Anna Maria", "Anna-Maria"],
    ["Ｉｎｅｓ", "Ines"],
  ])("look the same: %s and %s", (one, other) => expect(nameLook(one)).toBe(nameLook(other)));

  it.each([
    ["Ines", "Inès"],
    ["Ines", "Inas"],
    ["Tomas", "Thomas"],
    ["Иван", "Ivan"],
    ["Νίκος", "Nikos"],
    ["Rui", "Rui C"],
  ])("look different: %s and %s", (one, other) => expect(nameLook(one)).not.toBe(nameLook(other)));
});
