/** `bold-relay`: the service's answers for people who live in a shell. */
import { CommanderError } from "commander";
import { EXIT, explain } from "./exit.ts";
import { visible } from "./output.ts";
import { programOf } from "./program.ts";
import { verbsFor } from "./verbs.ts";

// A reader that has seen enough (head, less) closes the pipe: that is no error.
process.stdout.on("error", (error: NodeJS.ErrnoException) =>
  process.exit(error.code === "EPIPE" ? EXIT.reached : EXIT.notReached),
);

try {
  const program = await programOf(verbsFor(process.argv.slice(2)));
  await program.parseAsync();
} catch (error) {
  if (error instanceof CommanderError) {
    process.exitCode = error.exitCode === 0 ? EXIT.reached : EXIT.misuse;
  } else {
    const { message, code } = explain(error);
    process.stderr.write(`${visible(message)}\n`);
    process.exitCode = code;
  }
}
