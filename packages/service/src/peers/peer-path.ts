/** Where instances call each other; nobody else is answered there. */
export const PEER_PATH = "/internal/";

/** The instance does not lead what it was asked for (RFC 9110, 15.5.20). */
export const NOT_HERE = 421;
