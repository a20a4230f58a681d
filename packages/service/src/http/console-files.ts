/** The built console: files that were compressed once, at build. */
import path from "node:path";
import { RelayError } from "@bold-relay/core";
import { type RequestHandler, Router } from "express";
import expressStaticGzip from "express-static-gzip";

/** A year, in s (RFC 9111, 5.2.2.1; RFC 8246 for "immutable"). */
const FOREVER = "public, max-age=31536000, immutable";

/** @param folder where the console was built. Every address that nothing else answers is a page of it. */
export function consoleFiles(folder: string): Router {
  const router = Router();
  const files = filesOf(folder);
  router.use(files);
  router.use("/assets", () => {
    throw new RelayError("not-found", { what: "A file of the console with this name" });
  });
  router.get(/^\/(?!api\/|in\/|health\/|metrics$)/, (req, res, next) => {
    // Every page is the same file; what it shows is in the address.
    req.url = "/index.html";
    files(req, res, next);
  });
  return router;
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
