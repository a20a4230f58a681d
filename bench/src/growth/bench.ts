/** What the measurements of growth are made on: one service with servers of its own. */
import type { Child } from "@bold-relay/rig";

export interface GrowthBench {
  readonly url: string;
  readonly databaseUrl: string;
  readonly brokerUrl: string;
  readonly service: Child;
  /** Of an owner. */
  readonly key: string;
  /** A web inlet, and its key. */
  readonly inlet: string;
  readonly inletKey: string;
  readonly say: (line: string) => void;
}
