/** What panels watch: the live feed, with nothing of it but which channels changed. */
import type { Feed } from "../../state/live-feed.ts";
import type { PanelWatcher } from "./view.ts";

/** @returns ends it */
export function watchChannels(feed: Feed, { changed, ended }: PanelWatcher): () => void {
  return feed.subscribe({
    sites: null,
    send({ name, data }) {
      if (name === "channel") changed(data.address);
      else if (name === "model") changed(null);
    },
    end: ended,
  });
}
