/** Errors as they travel: problem details (RFC 9457) with our stable code. */
import type { ErrorCode } from "@bold-relay/core";

export const PROBLEM_TYPE = "application/problem+json";

export interface Problem {
  /** Where the code is documented, relative to the service: /errors#<code>. */
  type: string;
  title: string;
  status: number;
  /** What happened and what to do. */
  detail: string;
  code: ErrorCode;
  /** Whether the same call may succeed later. */
  retryable: boolean;
  /** The journaled request, where the refusal was kept. */
  request?: string;
  /** The nearest valid choices, best first. */
  nearest?: string[];
}

/** A problem that the service answered with. Test `problem.code`, never the text. */
export class ProblemError extends Error {
  readonly problem: Problem;
  /** From Retry-After, s; null when there was none. */
  readonly retryAfterS: number | null;

  constructor(problem: Problem, retryAfterS: number | null = null) {
    super(problem.detail);
    this.name = "ProblemError";
    this.problem = problem;
    this.retryAfterS = retryAfterS;
  }
}

/** The service did not answer at all, or something else did at its address. */
export class UnreachableError extends Error {
  /** @param answered what came instead of an answer of the service, and where it points: “HTTP 301, to https://…”; left out: nothing came */
  constructor(baseUrl: string, cause: unknown, answered?: string) {
    const text =
      answered === undefined
        ? `No answer from ${baseUrl}. Is the service running there?`
        : `${baseUrl} answered with ${answered}. The service does not answer like that. Check the address.`;
    super(text, { cause });
    this.name = "UnreachableError";
  }
}

/** Whether a parsed body is problem details of ours. */
export function isProblem(body: unknown): body is Problem {
  return typeof body === "object" && body !== null && "code" in body && "detail" in body && "status" in body;
}
