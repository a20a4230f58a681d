/**
 * Ids of rows that a bare part writes before the service has ever run: as the service makes them, but of the year 1970. Those of today would
 * keep it from making today's partition.
 */
import { randomBytes } from "node:crypto";
import { uuidV7 } from "@bold-relay/core";

const startedAt = Date.now();

export function earlyId(): string {
  return uuidV7(Date.now() - startedAt, randomBytes(10));
}
