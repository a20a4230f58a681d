// The reference of the command line: what its own help says, of every verb.
import { programOf } from "../../packages/cli/src/index.ts";
import { serverProgram } from "../../packages/service/src/program/program.ts";
import { page } from "./markdown.mjs";

const WIDTH = 110;

const program = await programOf();

export function commandLinePage() {
  const server = serverProgram({});
  const verbs = program.commands.flatMap((verb) => [verb, ...verb.commands.filter((one) => one.name() !== "help")]);
  return page(
    "The command line",
    "`bold-relay` is for members of the team, on any machine. `bold-relay-server` is for who runs the service, on its machine.",
    "`bold-relay help VERB` prints the same. Tables are for people. With `--json` each verb prints JSON Lines for programs.",
    section("bold-relay", program),
    ...verbs.map((verb) => section(nameOf(verb), verb)),
    section("bold-relay-server", server),
    ...server.commands.map((verb) => section(nameOf(verb), verb)),
  );
}

function nameOf(command) {
  return command.parent === null || command.parent === undefined
    ? command.name()
    : `${nameOf(command.parent)} ${command.name()}`;
}

function section(name, command) {
  return `## ${name}\n\n\`\`\`text\n${helpOf(command).trimEnd()}\n\`\`\``;
}

/** What `--help` prints, with its examples. */
function helpOf(command) {
  let text = "";
  command.configureOutput({
    writeOut: (part) => (text += part),
    getOutHelpWidth: () => WIDTH,
    getOutHasColors: () => false,
  });
  command.outputHelp();
  // What the machine's environment sets is no default of ours.
  return text.replace(/ +$/gm, "");
}
