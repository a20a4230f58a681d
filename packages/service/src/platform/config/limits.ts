/** Bounds and timings that are not for every day. Units in the names. */
export const limits = Object.freeze({
  /** Requests that wait for their commit; beyond it inlets answer 503. */
  acceptQueue: 4_000,
  /** Ends and state changes that wait for their commit. */
  settleQueue: 100_000,
  /** What was said back, and waits for its commit; beyond it what was said is not kept. */
  replyQueue: 10_000,
  /** How long what was said back is gathered before it is written: nobody waits for it. A crash loses as much of it. */
  replyGatherMs: 100,
  /** Rows in one commit group. */
  batchRows: 500,
  /** How long a caller waits for the commit before it is told that the database does not answer. */
  commitWaitMs: 5_000,
  /** How often due lanes are looked for. */
  sweepEveryMs: 25,
  /** How often what is no longer needed is removed from the database. */
  tidyEveryMs: 3_600_000,
  /** Progress of an open command is written when it is older than this. */
  progressAfterMs: 50,
  /** How many brackets may stand open at once in a body. */
  bodyDepth: 100,
  /** Largest request body, bytes. */
  bodyBytes: 16_384,
  /** Largest description of a site, bytes. */
  siteBytes: 10_485_760,
  /** Largest description of an inlet, bytes: it is read on the event loop. */
  inletBytes: 262_144,
  /** Largest plan of a translator, bytes: it is read on the event loop. */
  planBytes: 65_536,
  /** Longest time for a description to arrive. */
  siteWithinMs: 25_000,
  /** Longest time for a request body to arrive. */
  bodyWithinMs: 5_000,
  /** How long a sign-in lasts at most, and without a call. An open page calls. */
  sessionMs: 12 * 3_600_000,
  sessionIdleMs: 2 * 3_600_000,
  /** How long after a sign-in its member may create people, roles, keys and rules without another one. */
  recentSignInMs: 15 * 60_000,
  /** How long a link for a new password counts. */
  resetMs: 24 * 3_600_000,
  /** How long the link of an invitation counts. */
  inviteMs: 7 * 24 * 3_600_000,
  /** A live connection with more than this unread is closed; it reconnects and reads afresh. */
  liveBacklogBytes: 1_048_576,
  /** Unacknowledged publishes at the broker at any time. */
  publishWindow: 1_000,
  /** Requests that are handed on to the leader, at any time. */
  forwarded: 512,
  /** Calls to one other instance that have no answer so far; beyond it whoever asks is answered 503. */
  peerCalls: 4_096,
  /** How long a request waits for a new leader. */
  leaderWithinMs: 8_000,
  /** How long a stop may take to finish what is being written. */
  drainMs: 5_000,
});
