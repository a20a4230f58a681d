/** `bold-relay-server` as it is run for real, on one database. */
import { execFile } from "node:child_process";
import { SERVER_PROGRAM } from "@bold-relay/rig";

export interface Said {
  readonly code: number;
  readonly out: string;
  readonly err: string;
}

/** @param environment nothing but this and PATH: no file of the machine counts */
export function runServerProgram(environment: Readonly<Record<string, string>>, ...words: string[]): Promise<Said> {
  const env = { PATH: process.env.PATH ?? "", ...environment };
  return new Promise((resolve) => {
    execFile(process.execPath, [SERVER_PROGRAM, ...words], { env }, (error, out, err) => {
      resolve({ code: typeof error?.code === "number" ? error.code : 0, out, err });
    });
  });
}
