/** What a page does while the service is away, and once it is back at the same address. */
import { createLog, startService } from "../../../service/src/index.ts";
import type { World } from "../../../service/test/support/world.ts";

/** Stops the service for as long as the work lasts. */
export async function withoutService(world: World, work: () => Promise<void>): Promise<void> {
  const { port } = new URL(world.service.url);
  await world.service.stop();
  try {
    await work();
  } finally {
    world.service = await startService({ ...world.config, port: Number(port) }, createLog("silent"));
    await world.service.linked;
  }
}
