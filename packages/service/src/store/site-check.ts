/** The check that every change of something of a site must pass, where the change happens. */

/**
 * Called for what a change touches, within its transaction: the site of the stored object, and that of the new one. null is the
 * whole team's. Every verb that changes something of a site takes one, so that none can be called without.
 */
export interface SiteCheck {
  /** Rejects with not-found where the caller may not know of it. */
  stored(site: string | null): void;
  /** Rejects with not-permitted. */
  wanted(site: string | null): void;
}
