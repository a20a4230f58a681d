/** Where instances call each other; nobody else is answered there. */
export const PEER_PATH = "/internal/";

/** Proves the body of a call; see `PeerProof.forBody`. */
export const BODY_HEADER = "bold-relay-body";

/** The instance does not lead what it was asked for (RFC 9110, 15.5.20). */
export const NOT_HERE = 421;
