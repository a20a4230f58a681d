/** The built console: files that were compressed once, at build. */
import path from "node:path";
import { RelayError } from "@bold-relay/core";
import { type RequestHandler, Router } from "express";
import expressStaticGzip from "express-static-gzip";
import { heldPage } from "./held-page.ts";

/** A year, in s (RFC 9111, 5.2.2.1; RFC 8246 for "immutable"). */
const FOREVER = "public, max-age=31536000, immutable";

/** @param folder where the console was built. Every address that nothing else answers is a page of it. */
export function consoleFiles(folder: string): Router {
  const router = Router();
  const page = heldPage(path.join(folder, "index.html"));
  const pages: RequestHandler = (req, res, next) => (isPage(req.path) ? page(req, res, next) : next());
  // The page of every panel is the same file; which one it shows is in the address.
  router.get(/^\/panel\/[a-z0-9-]{1,40}$/, heldPage(path.join(folder, "panel.html")));
  router.get(/^\/panel\/([a-z0-9-]{1,40})\/app\.webmanifest$/, (req, res) => {
    res.type("application/manifest+json").json(panelManifest(String(req.params[0])));
  });
  // No file is without a dot in its name: the disk need not be asked.
  router.get(/^[^.]*$/, pages);
  router.use(filesOf(folder));
  router.use("/assets", () => {
    throw new RelayError("not-found", { what: "A file of the console with this name" });
  });
  router.get(/^\//, pages);
  return router;
}

/**
 * Whether an address is one of a page. What a proxy or a reader may take for an address of the service is none, however it is spelled: it
 * is answered as not there.
 */
function isPage(address: string): boolean {
  let plain = address;
  try {
    plain = decodeURIComponent(address);
  } catch {
    return false;
  }
  const levels = plain.replaceAll("\\", "/");
  // Dots that lead upwards: what stands between may take them away, and read another address.
  if (/(?:^|\/)\.\.?(?:\/|$)/.test(levels)) return false;
  return !/^\/+(?:api|assets|docs|in|health|metrics)(?:\/|$)/i.test(levels);
}

/** Installs one panel as an app of its own. It says no more than the address: whoever has no key learns nothing from it. */
function panelManifest(slug: string) {
  const name = slug.replaceAll("-", " ").replace(/^./, (first) => first.toUpperCase());
  return {
    id: `/panel/${slug}`,
    name,
    short_name: name.slice(0, 12),
    start_url: `/panel/${slug}`,
    scope: `/panel/${slug}`,
    display: "standalone",
    background_color: "#e7eae7",
    theme_color: "#22282a",
    icons: [
      { src: "/icon-192.png", sizes: "192x192", type: "image/png" },
      { src: "/icon-512.png", sizes: "512x512", type: "image/png" },
      { src: "/icon-maskable-512.png", sizes: "512x512", type: "image/png", purpose: "maskable" },
    ],
  };
}

function filesOf(folder: string): RequestHandler {
  const assets = path.join(folder, "assets") + path.sep;
  return expressStaticGzip(folder, {
    enableBrotli: true,
    orderPreference: ["br", "gz"],
    index: false,
    serveStatic: {
      cacheControl: false,
      redirect: false,
      setHeaders: (res, file) => {
        // Built files carry a hash in their names; the page that names them, and the worker, must always be fresh.
        res.setHeader("cache-control", file.startsWith(assets) ? FOREVER : "no-cache");
      },
    },
  });
}
