/** `bold-relay completion`: a script for a shell, so that it completes verbs, options and the addresses of channels and devices. */
import { Argument, Command, Option } from "commander";
import { connectionOf } from "../connection.ts";
import { printLine } from "../output.ts";

const SHELLS = ["bash", "zsh", "fish"] as const;
type Shell = (typeof SHELLS)[number];

/** Verbs whose words are addresses. */
const OF_CHANNELS = ["send", "state", "lock", "unlock", "history"];
const OF_DEVICES = ["commission", "devices"];

export const completionCommand = new Command("completion")
  .description("print a script with which your shell completes verbs, options and addresses")
  .addArgument(new Argument("[shell]", "for which").choices(SHELLS))
  .addOption(new Option("--addresses <of>", "print them, one a line").choices(["channels", "devices"]).hideHelp())
  .addHelpText(
    "after",
    `
Examples:
  source <(bold-relay completion bash)           in ~/.bashrc
  source <(bold-relay completion zsh)            in ~/.zshrc, after compinit
  bold-relay completion fish | source            in ~/.config/fish/config.fish`,
  )
  .action(async (shell: Shell | undefined, { addresses }: { addresses?: string }, command: Command) => {
    if (addresses !== undefined) return printAddresses(addresses, command);
    if (shell === undefined) throw new Error(`Say for which shell: ${SHELLS.join(", ")}.`);
    const verbs = verbsOf(command.parent ?? command);
    printLine(shell === "fish" ? fishScript(verbs) : bashScript(verbs, shell));
  });

/** The shell expands what it is offered: nothing that could mean more to it than a word may come from elsewhere. */
const PLAIN_ADDRESS = /^[a-z0-9/-]+$/;

/** Asked at every press of the key: what cannot be had is left out, without a word. */
async function printAddresses(of: string, command: Command): Promise<void> {
  const { client } = connectionOf(command);
  const board = await client.board().catch(() => null);
  const channels = board?.sites.flatMap((site) => site.channels) ?? [];
  const addresses = channels.map(({ address }) => (of === "devices" ? address.replace(/\/[^/]+$/, "") : address));
  for (const address of new Set(addresses)) if (PLAIN_ADDRESS.test(address)) printLine(address);
}

interface Verb {
  /** "inlet", "inlet load" */
  readonly name: string;
  readonly about: string;
  /** What may follow: verbs of its own, then options. */
  readonly words: readonly string[];
}

function verbsOf(program: Command): Verb[] {
  const describe = (command: Command, name: string): Verb => {
    const options = command.options.filter((option) => !option.hidden).flatMap(({ long }) => long ?? []);
    const words = [...command.commands.map((one) => one.name()), ...options, "--help"];
    return { name, about: command.description(), words };
  };
  return program.commands.flatMap((verb) => [
    describe(verb, verb.name()),
    ...verb.commands.map((inner) => describe(inner, `${verb.name()} ${inner.name()}`)),
  ]);
}

function bashScript(verbs: readonly Verb[], shell: "bash" | "zsh"): string {
  const first = verbs.filter(({ name }) => !name.includes(" ")).map(({ name }) => name);
  return `${shell === "zsh" ? "autoload -U +X bashcompinit && bashcompinit\n" : ""}_bold_relay() {
  local cur="\${COMP_WORDS[COMP_CWORD]}" verb="" inner="" words="" word
  for word in "\${COMP_WORDS[@]:1:COMP_CWORD-1}"; do
    case "$word" in
      -*) ;;
      *) if [ -z "$verb" ]; then verb="$word"; elif [ -z "$inner" ]; then inner="$word"; fi ;;
    esac
  done
  case "$verb $inner" in
    " ") words="${first.join(" ")} --url --json --help --version" ;;
${verbs
  .filter(({ name }) => name.includes(" "))
  .map(({ name, words }) => `    "${name}") words="${words.join(" ")}" ;;`)
  .join("\n")}
    *)
      case "$verb" in
${verbs
  .filter(({ name }) => !name.includes(" "))
  .map(({ name, words }) => `        ${name}) words="${words.join(" ")}" ;;`)
  .join("\n")}
      esac ;;
  esac
  case "$verb" in
    ${OF_CHANNELS.join("|")}) words="$words $(bold-relay completion --addresses channels 2>/dev/null)" ;;
    ${OF_DEVICES.join("|")}) words="$words $(bold-relay completion --addresses devices 2>/dev/null)" ;;
  esac
  COMPREPLY=($(compgen -W "$words" -- "$cur"))
}
complete -F _bold_relay bold-relay`;
}

function fishScript(verbs: readonly Verb[]): string {
  const quoted = (text: string) => `'${text.replaceAll("\\", "\\\\").replaceAll("'", "\\'")}'`;
  const lines = verbs.flatMap(({ name, about, words }) => {
    const [verb = "", inner] = name.split(" ");
    const seen = `__fish_seen_subcommand_from ${verb}`;
    const offered =
      inner === undefined
        ? `complete -c bold-relay -n __fish_use_subcommand -a ${verb} -d ${quoted(about)}`
        : `complete -c bold-relay -n '${seen}' -a ${inner} -d ${quoted(about)}`;
    const after = inner === undefined ? seen : `${seen}; and __fish_seen_subcommand_from ${inner}`;
    const options = words.filter((word) => word.startsWith("--"));
    return [offered, ...options.map((option) => `complete -c bold-relay -n '${after}' -l ${option.slice(2)}`)];
  });
  const addresses = (of: readonly string[], which: string) =>
    `complete -c bold-relay -n '__fish_seen_subcommand_from ${of.join(" ")}' -a '(bold-relay completion --addresses ${which} 2>/dev/null)'`;
  return [
    "complete -c bold-relay -f",
    ...lines,
    addresses(OF_CHANNELS, "channels"),
    addresses(OF_DEVICES, "devices"),
  ].join("\n");
}
