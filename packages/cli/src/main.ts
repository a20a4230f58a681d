/** `bold-relay`: the service's answers for people who live in a shell. */
import { CommanderError } from "commander";
import { EXIT } from "./exit.ts";
import { answerInJson, finishOutput, visible } from "./output.ts";
import { explain } from "./problem-text.ts";
import { programOf } from "./program.ts";
import { signOutAgain } from "./sign-in-again.ts";
import { refuseUnknown } from "./unknown-verb.ts";
import { verbsFor } from "./verbs.ts";

// A reader that has seen enough (head, less) closes the pipe: that is no error.
process.stdout.on("error", (error: NodeJS.ErrnoException) =>
  process.exit(error.code === "EPIPE" ? EXIT.reached : EXIT.notReached),
);

const words = process.argv.slice(2);
// Also errors that are found before a verb runs are told in it.
const inJson = words.includes("--json");
answerInJson(inJson);

try {
  const program = await programOf(verbsFor(words));
  refuseUnknown(program, words);
  await program.parseAsync();
} catch (error) {
  // Help and version end with such an error too, and with 0.
  if (error instanceof CommanderError && error.exitCode === 0) process.exitCode = EXIT.reached;
  else {
    const { text, report, exit } = explain(error);
    // Of what it has thrown, commander itself tells people.
    if (inJson) process.stderr.write(`${JSON.stringify(report)}\n`);
    else if (!(error instanceof CommanderError)) process.stderr.write(`${visible(text)}\n`);
    process.exitCode = exit;
  }
} finally {
  await signOutAgain();
  finishOutput();
}
