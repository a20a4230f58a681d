/** Names in the page's head what the Board needs, so that it is on its way before the first script runs. */
import type { HtmlTagDescriptor, Plugin } from "vite";

/** Read by every page of the console at its start; panels have none of it. */
const DATA = ["/api/v1/session", "/api/v1/board"];
/** The letters of rows and plates; the others may come later. */
const FONTS = /barlow-basic-400|barlow-semi-condensed-basic-600/;

export function earlyLinks(): Plugin {
  return {
    name: "early-links",
    apply: "build",
    transformIndexHtml: {
      order: "post",
      handler(_html, { bundle = {}, path }): HtmlTagDescriptor[] {
        const fonts = Object.keys(bundle).filter((file) => FONTS.test(file) && file.endsWith(".woff2"));
        return [
          ...fonts.map((file) => preload(`/${file}`, { as: "font", type: "font/woff2" })),
          ...(path === "/index.html" ? DATA : []).map((address) => preload(address, { as: "fetch" })),
        ];
      },
    },
  };
}

/** `crossorigin`, for scripts and fonts ask for their own origin in the same way. */
function preload(href: string, attrs: Record<string, string>): HtmlTagDescriptor {
  return { tag: "link", attrs: { rel: "preload", href, crossorigin: true, ...attrs }, injectTo: "head" };
}
