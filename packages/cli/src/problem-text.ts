/** What goes wrong, in words for people and as an object for programs, with an exit code that means something. */
import { isUntrusted, ProblemError, UnreachableError } from "@bold-relay/api";
import { CommanderError } from "commander";
import { EXIT, type ExitCode } from "./exit.ts";

/** As the API has it (RFC 9457); `code` is one of the service, or `misuse`, `file`, `unreachable`, `failed`. */
interface ErrorReport {
  readonly code: string;
  readonly title: string;
  readonly detail: string;
  readonly nearest?: readonly string[];
}

export interface Explained {
  /** For people; several lines at most. */
  readonly text: string;
  readonly report: ErrorReport;
  readonly exit: ExitCode;
}

/** An error that the command line finds by itself. */
export class UsageError extends Error {
  readonly nearest: readonly string[];

  /** @param nearest valid words, best first; they are shown */
  constructor(message: string, nearest: readonly string[] = []) {
    super(message);
    this.name = "UsageError";
    this.nearest = nearest;
  }
}

export function explain(error: unknown): Explained {
  if (error instanceof UnreachableError) {
    const title = isUntrusted(error) ? "The certificate is not trusted" : "No answer from the service";
    return plain("unreachable", title, error.message, EXIT.unreachable);
  }
  if (error instanceof ProblemError) return explainProblem(error);
  if (error instanceof CommanderError)
    return plain("misuse", "The command line is wrong", error.message.replace(/^error: /, ""), EXIT.misuse);
  if (error instanceof UsageError) {
    const { message, nearest } = error;
    const near = nearest.length === 0 ? "" : ` Nearest: ${nearest.join(", ")}.`;
    const report = { code: "misuse", title: "The command line is wrong", detail: message, nearest };
    return { text: `${message}${near}`, report, exit: EXIT.misuse };
  }
  const trouble = fileTrouble(error);
  if (trouble !== null) return plain("file", "A file cannot be used", trouble, EXIT.misuse);
  return plain("failed", "The command failed", error instanceof Error ? error.message : String(error), EXIT.misuse);
}

function explainProblem({ problem }: ProblemError): Explained {
  const { code, title, detail, nearest } = problem;
  const report = { code, title, detail, ...(nearest === undefined ? {} : { nearest }) };
  const text = `${title}. ${detail}`;
  if (problem.status === 401 || problem.status === 403)
    return { text: `${text}\nSet BOLD_RELAY_KEY to a valid key.`, report, exit: EXIT.notPermitted };
  if (problem.status >= 500) return { text, report, exit: EXIT.unreachable };
  return { text, report, exit: code === "bad-request" ? EXIT.misuse : EXIT.notReached };
}

function plain(code: string, title: string, detail: string, exit: ExitCode): Explained {
  return { text: detail, report: { code, title, detail }, exit };
}

/** Error numbers of files (POSIX, errno.h) in words. */
const FILE_TROUBLES: Readonly<Record<string, string>> = {
  ENOENT: "There is no such file or folder",
  EACCES: "You may not read or write it",
  EPERM: "You may not change it",
  EISDIR: "It is a folder, not a file",
  ENOTDIR: "A part of its path is a file, not a folder",
  EEXIST: "It exists already",
  ENOSPC: "The disk is full",
  EROFS: "The disk is read-only",
  EMFILE: "Too many files are open",
};

/** @example fileTrouble(await open("nope.yaml")) // → "nope.yaml: There is no such file or folder." */
function fileTrouble(error: unknown): string | null {
  const { code, path } = (error ?? {}) as NodeJS.ErrnoException;
  const words = code === undefined ? undefined : FILE_TROUBLES[code];
  return words === undefined || path === undefined ? null : `${path}: ${words}.`;
}
