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

/** Asks the same question until the answer is as wanted; for what no event tells. */
export async function poll<Answer>(
  question: () => Promise<Answer>,
  isSo: (answer: Answer) => boolean,
): Promise<Answer> {
  for (;;) {
    const answer = await question();
    if (isSo(answer)) return answer;
    await new Promise((resolve) => setImmediate(resolve));
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
