/** The console that was built with this service. */
import { fileURLToPath } from "node:url";

export const BUILT_CONSOLE = fileURLToPath(new URL("../../../../console/dist", import.meta.url));
