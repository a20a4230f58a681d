import { consoleBuild } from "./vite/console-build.ts";

/** Panels, into the same folder, after the console. */
export default consoleBuild({ page: "panel", worker: "panel-worker", first: false });
