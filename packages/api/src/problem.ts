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
        ? (CERTIFICATE_TROUBLES[codeOf(cause)]?.(baseUrl) ?? `No answer from ${baseUrl}. Is the service running there?`)
        : `${baseUrl} answered with ${answered}. The service does not answer like that. Check the address.`;
    super(text, { cause });
    this.name = "UnreachableError";
  }
}

const unknownAuthority = (baseUrl: string) =>
  `The certificate of ${baseUrl} is not trusted: this machine does not know the authority that signed it. ` +
  "To trust that authority: export NODE_EXTRA_CA_CERTS=FILE, with its certificate in PEM form.";

/** What TLS says of a certificate (Node.js has the names of OpenSSL, x509_vfy.h) → what to do. */
const CERTIFICATE_TROUBLES: Readonly<Record<string, (baseUrl: string) => string>> = {
  DEPTH_ZERO_SELF_SIGNED_CERT: unknownAuthority,
  SELF_SIGNED_CERT_IN_CHAIN: unknownAuthority,
  UNABLE_TO_VERIFY_LEAF_SIGNATURE: unknownAuthority,
  UNABLE_TO_GET_ISSUER_CERT: unknownAuthority,
  UNABLE_TO_GET_ISSUER_CERT_LOCALLY: unknownAuthority,
  CERT_UNTRUSTED: unknownAuthority,
  CERT_HAS_EXPIRED: (baseUrl) =>
    `The certificate of ${baseUrl} has expired. Renew it there, and check this machine's clock.`,
  CERT_NOT_YET_VALID: (baseUrl) => `The certificate of ${baseUrl} is not valid yet. Check the clocks of both machines.`,
  ERR_TLS_CERT_ALTNAME_INVALID: (baseUrl) =>
    `The certificate of ${baseUrl} is for another name. Use the name that it was made for.`,
  EPROTO: (baseUrl) =>
    `${baseUrl} does not speak TLS. Use ${baseUrl.replace("https:", "http:")}, or the port that does.`,
};

/** Whether the service was not asked because its certificate is not trusted. */
export function isUntrusted(error: UnreachableError): boolean {
  return CERTIFICATE_TROUBLES[codeOf(error.cause)] === unknownAuthority;
}

/** `fetch` has the cause of its failure within the error. */
function codeOf(error: unknown): string {
  const { code, cause } = (error ?? {}) as { code?: unknown; cause?: unknown };
  if (typeof code === "string") return code;
  return cause === undefined ? "" : codeOf(cause);
}

/** Whether a parsed body is problem details of ours. */
export function isProblem(body: unknown): body is Problem {
  return typeof body === "object" && body !== null && "code" in body && "detail" in body && "status" in body;
}
