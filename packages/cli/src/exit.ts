/** Exit codes that mean something. */
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
