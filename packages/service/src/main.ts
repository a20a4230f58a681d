/** `bold-relay-server`: the service, and everything that whoever runs the machine does with it. Only this reads the environment. */
import { CommanderError } from "commander";
import { serverProgram } from "./program/program.ts";

// A reader that has seen enough (head, less) closes the pipe: that is no error, and no reason to end the service.
process.stdout.on("error", (error: NodeJS.ErrnoException) => {
  if (error.code !== "EPIPE") throw error;
  if (!process.argv.includes("start")) process.exit(0);
});

try {
  await serverProgram(process.env).parseAsync();
} catch (error) {
  if (error instanceof CommanderError) {
    process.exitCode = error.exitCode === 0 ? 0 : 2;
  } else {
    process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`);
    process.exitCode = 1;
  }
}
