/** A plan in a file. */
import { readFileSync } from "node:fs";
import { parse } from "yaml";
import { checkPlan, type Plan } from "./plan.ts";

/** Reads a plan, YAML or JSON. @throws Error that names the file and every mistake */
export function readPlan(file: string): Plan {
  try {
    return checkPlan(parse(readFileSync(file, "utf8"), { maxAliasCount: 100 }));
  } catch (error) {
    throw new Error(`${file}: ${(error as Error).message}`, { cause: error });
  }
}
