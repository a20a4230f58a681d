/** Where the last Board is kept on this device, and how it goes. A file of its own: every page may have to forget it, few ever read it. */
export const STORE = "last-board";

export async function forgetLastBoard(): Promise<void> {
  await globalThis.caches?.delete(STORE);
}
