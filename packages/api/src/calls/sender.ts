/** Sends a call and tells what came back: an answer, a problem, or that nothing answered. */
import { problemFrom } from "../client-answer.ts";
import { UnreachableError } from "../problem.ts";

export interface ClientOptions {
  /** The service's address without a path: "http://127.0.0.1:4180". Empty in the console: its own origin. */
  baseUrl: string;
  /** Sent as bearer key. Left out in the console, which has a session cookie. */
  key?: string;
}

export interface Sender {
  send(method: string, path: string, body?: unknown, more?: RequestInit): Promise<Response>;
  /** The answer's body. */
  json<Answer>(response: Promise<Response>): Promise<Answer>;
}

/** Both reject with ProblemError, or with UnreachableError when nothing answered. */
export function openSender({ baseUrl, key }: ClientOptions): Sender {
  async function send(method: string, path: string, body?: unknown, more: RequestInit = {}): Promise<Response> {
    const headers = new Headers(more.headers);
    if (key !== undefined) headers.set("authorization", `Bearer ${key}`);
    if (body !== undefined) headers.set("content-type", "application/json");
    const init: RequestInit = { ...more, method, headers };
    if (body !== undefined) init.body = JSON.stringify(body);
    let response: Response;
    try {
      response = await fetch(`${baseUrl}${path}`, init);
    } catch (cause) {
      if (more.signal?.aborted) throw cause;
      throw new UnreachableError(baseUrl, cause);
    }
    if (!response.ok) throw await problemFrom(response, baseUrl);
    return response;
  }
  const json = async <Answer>(response: Promise<Response>): Promise<Answer> =>
    (await (await response).json()) as Answer;
  return { send, json };
}
