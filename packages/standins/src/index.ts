/** Simulated devices that ship with the product and misbehave on demand. */
export * from "./control.ts";
export * from "./outside/index.ts";
export * from "./relay-board.ts";
export { type BoardDeed, FAULTS, type RelayBoardOptions } from "./relay-board-options.ts";
