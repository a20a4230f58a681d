/** The worker of the console. Panels have their own, and are none of its pages. */
import { openWithoutConnection } from "./shell-worker.ts";

/** Put in by the build: vite/shell-files.ts. */
declare const __SHELL_FILES__: { url: string; revision: string | null }[];

openWithoutConnection(__SHELL_FILES__, "/index.html", [/^\/api\//, /^\/in\//, /^\/panel\//, /^\/health/, /^\/metrics/]);
