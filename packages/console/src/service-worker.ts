/**
 * Opens the console where there is no connection. It keeps the console's own files and nothing else: what the service says
 * is never kept here, and what a person asks is never sent later than they pressed.
 */
import { cleanupOutdatedCaches, matchPrecache, precacheAndRoute } from "workbox-precaching";
import { NavigationRoute, registerRoute } from "workbox-routing";

declare const self: { skipWaiting(): Promise<void> };
/** Put in by the build: vite/shell-files.ts. */
declare const __SHELL_FILES__: { url: string; revision: string | null }[];

/** How long a page may take to come from the service before the kept one opens, ms. */
const WAIT_MS = 4_000;
/** Addresses that are not pages of the console. */
const NOT_OURS = [/^\/api\//, /^\/in\//, /^\/health/, /^\/metrics/];

void self.skipWaiting();
cleanupOutdatedCaches();
// No file of a folder, no address without its ending: "/" is asked of the service like every other page.
precacheAndRoute(__SHELL_FILES__, { directoryIndex: "", cleanURLs: false });
registerRoute(new NavigationRoute(({ request }) => page(request), { denylist: NOT_OURS }));

/** The service's own page, so that a new version is seen at once; without the service the one that was kept. */
async function page(request: Request): Promise<Response> {
  const file = new URL(request.url).pathname.startsWith("/panel/") ? "/panel.html" : "/index.html";
  const kept = async () => (await matchPrecache(file)) ?? Response.error();
  try {
    const response = await fetch(request, { signal: AbortSignal.timeout(WAIT_MS) });
    // A reverse proxy answers so when the service behind it is down.
    return [502, 503, 504].includes(response.status) ? await kept() : response;
  } catch {
    return kept();
  }
}
