/** Waiting for what live events and queries will tell, never for time to pass. */
import { type ChannelView, type Client, type LiveEvent, ProblemError } from "@bold-relay/api";

/**
 * Listens to live events and resolves once one of them is the one that is waited for. What is so already
 * when the listening starts is looked at first, so that nothing is missed.
 */
export async function untilChannel(
  client: Client,
  address: string,
  isSo: (channel: ChannelView) => boolean,
): Promise<ChannelView> {
  const stop = new AbortController();
  try {
    return await new Promise<ChannelView>((resolve, reject) => {
      const look = (channel: ChannelView | undefined) => {
        if (channel && isSo(channel)) resolve(channel);
      };
      const onEvent = (event: LiveEvent) => {
        if (event.name === "channel" && event.data.address === address) look(event.data);
        if (event.name === "hello") channelNow(client, address).then(look, reject);
      };
      client.live(onEvent, stop.signal).then(() => reject(new Error("the live connection ended")), reject);
    });
  } finally {
    stop.abort();
  }
}

export async function channelNow(client: Client, address: string): Promise<ChannelView | undefined> {
  const { sites } = await client.board();
  return sites.flatMap((site) => site.channels).find((channel) => channel.address === address);
}

export interface Patience {
  /** What is waited for, for the message when it does not come. */
  readonly what?: string;
  /** Between two questions, ms. */
  readonly pauseMs?: number;
  /** Shorter than a test may take, so that it fails here and says why, ms. */
  readonly withinMs?: number;
}

/**
 * Asks the same question until the answer is as wanted; for what no event tells.
 *
 * @throws Error with the last answer when it never is
 */
export async function poll<Answer>(
  question: () => Promise<Answer>,
  isSo: (answer: Answer) => boolean,
  { what = "the answer that is waited for", pauseMs = 10, withinMs = 28_000 }: Patience = {},
): Promise<Answer> {
  const end = performance.now() + withinMs;
  for (;;) {
    const answer = await question();
    if (isSo(answer)) return answer;
    if (performance.now() > end)
      throw new Error(`${what} did not come within ${withinMs} ms. The last answer: ${JSON.stringify(answer)}`);
    await new Promise((resolve) => setTimeout(resolve, pauseMs));
  }
}

/** The code of the refusal that a call meets; "taken" when it meets none. */
export async function refusal(work: Promise<unknown>): Promise<string> {
  try {
    await work;
    return "taken";
  } catch (error) {
    if (error instanceof ProblemError) return error.problem.code;
    throw error;
  }
}
