/** What others may use of the command line: its exit codes, and its verbs for the reference that is made of them. */
export { EXIT } from "./exit.ts";
export { programOf } from "./program.ts";
