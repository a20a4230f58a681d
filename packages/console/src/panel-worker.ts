/** The worker of panels: whoever has only a panel gets no file of the console. */
import { openWithoutConnection } from "./shell-worker.ts";

/** Put in by the build: vite/shell-files.ts. */
declare const __SHELL_FILES__: { url: string; revision: string | null }[];

openWithoutConnection(__SHELL_FILES__, "/panel.html", [/^(?!\/panel\/)/]);
