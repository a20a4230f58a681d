/** The command line as people run it: as a process, with the key and the password of the owner of a test's world. */
import { execFile } from "node:child_process";
import { inject } from "vitest";
import type { World } from "../../../service/test/support/world.ts";

export interface Ran {
  readonly code: number;
  readonly out: string;
  readonly err: string;
}

/** @param world asked for once something is run: it is there then */
export function commandLine(world: () => World): (...words: string[]) => Promise<Ran> {
  return (...words) => {
    const { service, key, passwordFile } = world();
    const env = {
      PATH: process.env.PATH ?? "",
      BOLD_RELAY_URL: service.url,
      BOLD_RELAY_KEY: key,
      BOLD_RELAY_PASSWORD_FILE: passwordFile,
      TZ: "UTC",
    };
    return new Promise((resolve) => {
      execFile(process.execPath, [inject("cliProgram"), ...words], { env }, (error, out, err) => {
        resolve({ code: typeof error?.code === "number" ? error.code : 0, out, err });
      });
    });
  };
}
