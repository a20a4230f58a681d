/** Exit codes that mean something, and errors in a line. */
import { ProblemError, UnreachableError } from "@bold-relay/api";

export const EXIT = {
  /** The command reached its target stage, or the question was answered. */
  reached: 0,
  /** It did not: failed, unanswered, refused, expired, replaced, or still open. */
  notReached: 1,
  /** The command line is wrong. */
  misuse: 2,
  /** The service did not answer. */
  unreachable: 3,
  /** The service knows the caller and says no, or does not know the caller. */
  notPermitted: 4,
} as const;

export type ExitCode = (typeof EXIT)[keyof typeof EXIT];

export function explain(error: unknown): { message: string; code: ExitCode } {
  if (error instanceof UnreachableError) return { message: error.message, code: EXIT.unreachable };
  if (!(error instanceof ProblemError)) {
    return { message: error instanceof Error ? error.message : String(error), code: EXIT.misuse };
  }
  const { problem } = error;
  const message = `${problem.title}. ${problem.detail}`;
  if (problem.status === 401 || problem.status === 403) {
    return { message: `${message}\nSet BOLD_RELAY_KEY to a valid key.`, code: EXIT.notPermitted };
  }
  if (problem.status >= 500) return { message, code: EXIT.unreachable };
  return { message, code: problem.code === "bad-request" ? EXIT.misuse : EXIT.notReached };
}
