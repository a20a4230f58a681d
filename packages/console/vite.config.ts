import { consoleBuild } from "./vite/console-build.ts";

/** The console. Panels are a build of their own (`vite.panel.config.ts`): neither waits for a file of the other. */
export default consoleBuild({ page: "index", worker: "service-worker", first: true });
