/** Sends a call and tells what came back: an answer, a problem, or that nothing answered. */
import { problemFrom } from "../client-answer.ts";
import { ProblemError, UnreachableError } from "../problem.ts";
import { fetchTransport, type IncomingAnswer, type OutgoingCall, type Transport } from "./transport.ts";

export interface ClientOptions {
  /** The service's address without a path: "http://127.0.0.1:4180". Empty in the console: its own origin. */
  baseUrl: string;
  /** Sent as bearer key. Left out in the console, which has a session cookie. */
  key?: string;
  /** Default: `fetch`. */
  transport?: Transport;
  /**
   * Called when a call needs a recent sign-in. Returns the headers to repeat the call with, instead of the key's; null: the caller gave up.
   */
  signInAgain?: () => Promise<Readonly<Record<string, string>> | null>;
  /** Told with each answer that is not the whole. @param instances names of those that lead and of which nothing is heard */
  onMissing?: (instances: string) => void;
}

/** Header of answers while instances that lead are not heard: their names, with commas between. What they know and count is missing. */
export const MISSING_HEADER = "bold-relay-missing";

export interface Sender {
  send(method: string, path: string, body?: unknown, more?: MoreOfCall): Promise<IncomingAnswer>;
  /** The answer's body. */
  json<Answer>(answer: Promise<IncomingAnswer>): Promise<Answer>;
}

/** What few calls have. */
type MoreOfCall = Partial<Pick<OutgoingCall, "headers" | "signal">>;

/** Both reject with ProblemError, or with UnreachableError when nothing answered. */
export function openSender(options: ClientOptions): Sender {
  const { baseUrl, key, transport = fetchTransport, signInAgain, onMissing } = options;
  const shown: Readonly<Record<string, string>> = key === undefined ? {} : { authorization: `Bearer ${key}` };

  async function send(method: string, path: string, body?: unknown, more: MoreOfCall = {}): Promise<IncomingAnswer> {
    try {
      return await sendWith(shown, method, path, body, more);
    } catch (error) {
      const isOld = error instanceof ProblemError && error.problem.code === "recent-sign-in-required";
      const anew = isOld && signInAgain ? await signInAgain() : null;
      if (anew === null) throw error;
      return sendWith(anew, method, path, body, more);
    }
  }

  async function sendWith(
    identity: Readonly<Record<string, string>>,
    method: string,
    path: string,
    body: unknown,
    more: MoreOfCall,
  ): Promise<IncomingAnswer> {
    const headers = {
      ...more.headers,
      ...identity,
      ...(body === undefined ? {} : { "content-type": "application/json" }),
    };
    let answer: IncomingAnswer;
    try {
      const call = { ...more, method, headers };
      answer = await transport(
        `${baseUrl}${path}`,
        body === undefined ? call : { ...call, body: JSON.stringify(body) },
      );
    } catch (cause) {
      if (more.signal?.aborted) throw cause;
      throw new UnreachableError(baseUrl, cause);
    }
    const missing = answer.header(MISSING_HEADER);
    if (missing !== null) onMissing?.(missing);
    if (answer.status < 200 || answer.status > 299) throw await problemFrom(answer, baseUrl);
    return answer;
  }
  async function json<Answer>(call: Promise<IncomingAnswer>): Promise<Answer> {
    const answer = await call;
    try {
      return JSON.parse(await answer.text()) as Answer;
    } catch (cause) {
      // It broke off, or something between here and the service answered with a page of its own.
      throw new UnreachableError(baseUrl, cause);
    }
  }
  return { send, json };
}
