/**
 * Opens a page where there is no connection. It keeps the page's own files and nothing else: what the service says is never
 * kept here, and what a person asks is never sent later than they pressed.
 */
import { cleanupOutdatedCaches, matchPrecache, type PrecacheEntry, precacheAndRoute } from "workbox-precaching";
import { NavigationRoute, registerRoute } from "workbox-routing";

declare const self: { skipWaiting(): Promise<void> };

/** How long a page may take to come from the service before the kept one opens, ms. */
const WAIT_MS = 4_000;

/**
 * @param files what the page needs to open
 * @param page the file that stands for every address of it
 * @param denylist addresses that are not pages of it
 */
export function openWithoutConnection(files: PrecacheEntry[], page: string, denylist: RegExp[]): void {
  void self.skipWaiting();
  cleanupOutdatedCaches();
  // No file of a folder, no address without its ending: "/" is asked of the service like every other page.
  precacheAndRoute(files, { directoryIndex: "", cleanURLs: false });
  registerRoute(new NavigationRoute(({ request }) => answer(request, page), { denylist }));
}

/** The service's own page, so that a new version is seen at once; without the service the one that was kept. */
async function answer(request: Request, page: string): Promise<Response> {
  const kept = async () => (await matchPrecache(page)) ?? Response.error();
  try {
    const response = await fetch(request, { signal: AbortSignal.timeout(WAIT_MS) });
    // A reverse proxy answers so when the service behind it is down.
    return [502, 503, 504].includes(response.status) ? await kept() : response;
  } catch {
    return kept();
  }
}
