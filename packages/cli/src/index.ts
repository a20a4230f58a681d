/** The command line has no library of its own; it is run as `bold-relay`. */
export { EXIT } from "./exit.ts";
