/** The Express application behind the inlets: API, health, console. */
import { RelayError } from "@bold-relay/core";
import compression from "compression";
import express, { type Express } from "express";
import helmet from "helmet";
import { requirePlainAddress } from "../http-exchange/body.ts";
import { problemHandler } from "../http-exchange/problem.ts";
import { consoleFiles } from "./console-files.ts";
import type { HttpDeps } from "./deps.ts";
import { accountRoutes } from "./routes/account.ts";
import { alertRoutes } from "./routes/alerts.ts";
import { boardRoutes } from "./routes/board.ts";
import { channelRoutes } from "./routes/channels.ts";
import { clusterRoutes } from "./routes/cluster.ts";
import { commissioningRoutes } from "./routes/commissioning.ts";
import { descriptionCheckRoutes } from "./routes/description-check.ts";
import { deviceRoutes } from "./routes/devices.ts";
import { healthRoutes } from "./routes/health.ts";
import { inletLinkRoutes } from "./routes/inlet-links.ts";
import { inletListenRoutes } from "./routes/inlet-listen.ts";
import { inletTrialRoutes } from "./routes/inlet-trials.ts";
import { inletRoutes } from "./routes/inlets.ts";
import { interfaceRoutes } from "./routes/interface.ts";
import { keyRoutes } from "./routes/keys.ts";
import { lockoutRoutes } from "./routes/lockouts.ts";
import { mapRoutes } from "./routes/map.ts";
import { metricRoutes } from "./routes/metrics.ts";
import { notificationRoutes } from "./routes/notifications.ts";
import { profileRoutes } from "./routes/profiles.ts";
import { requestRoutes } from "./routes/requests.ts";
import { sessionRoutes } from "./routes/session.ts";
import { setupRoutes } from "./routes/setup.ts";
import { siteRoutes } from "./routes/sites.ts";
import { statisticsRoutes } from "./routes/statistics.ts";
import { teamRoutes } from "./routes/team.ts";
import { versionRoutes } from "./routes/versions.ts";
import { wireRoutes } from "./routes/wire.ts";
import { unknownCall } from "./unknown-call.ts";

export function createApp(deps: HttpDeps): Express {
  const app = express();
  app.disable("x-powered-by");
  app.disable("etag");
  // Addresses are read in other places too, and there is one spelling of each.
  app.enable("case sensitive routing");
  app.set("trust proxy", [...deps.config.trustedProxies]);
  app.use(securityHeaders());
  app.use(plainAddress);
  app.use("/health", healthRoutes(deps));
  app.use(
    "/api/v1",
    noStore,
    compressed(),
    sessionRoutes(deps),
    setupRoutes(deps),
    accountRoutes(deps),
    boardRoutes(deps),
    requestRoutes(deps),
    lockoutRoutes(deps),
    teamRoutes(deps),
    keyRoutes(deps),
    channelRoutes(deps),
    deviceRoutes(deps),
    profileRoutes(deps),
    siteRoutes(deps),
    versionRoutes(deps),
    descriptionCheckRoutes(deps),
    wireRoutes(deps),
    commissioningRoutes(deps),
    inletRoutes(deps),
    inletLinkRoutes(deps),
    inletTrialRoutes(deps),
    inletListenRoutes(deps),
    alertRoutes(deps),
    statisticsRoutes(deps),
    mapRoutes(deps),
    clusterRoutes(deps),
    interfaceRoutes(deps),
    notificationRoutes(deps),
  );
  app.use(metricRoutes(deps));
  app.use("/api/v1", unknownCall);
  app.use("/api", (req) => {
    throw new RelayError("not-found", { what: `The API address ${req.originalUrl.slice(0, 200)}` });
  });
  if (deps.config.consoleDir !== undefined) app.use(consoleFiles(deps.config.consoleDir));
  app.use(() => {
    throw new RelayError("not-found", { what: "A page at this address" });
  });
  app.use(problemHandler(deps.log));
  return app;
}

function securityHeaders() {
  return helmet({
    contentSecurityPolicy: {
      directives: {
        defaultSrc: ["'none'"],
        scriptSrc: ["'self'"],
        styleSrc: ["'self'"],
        fontSrc: ["'self'"],
        imgSrc: ["'self'", "data:"],
        connectSrc: ["'self'"],
        manifestSrc: ["'self'"],
        workerSrc: ["'self'"],
        formAction: ["'self'"],
        frameAncestors: ["'none'"],
        baseUri: ["'none'"],
        // On plain loopback HTTP there is nothing to upgrade to.
        upgradeInsecureRequests: null,
      },
    },
    // Sent with everything, by the server itself.
    strictTransportSecurity: false,
  });
}

/** An address that is no text, or holds what no name can, is refused before anything is looked for by it. */
const plainAddress: express.RequestHandler = (req, _res, next) => {
  requirePlainAddress(req.url);
  next();
};

/**
 * Answers of reading calls go compressed to who can read that: a board is a tenth of its size then. What is shown once (keys, passwords,
 * links) is in answers of other calls, so that its length tells nobody anything (BREACH). Events and exports go as they come.
 */
function compressed(): express.RequestHandler {
  return compression({
    threshold: 1_500,
    filter: (req, res) => req.method === "GET" && /^application\/json\b/.test(String(res.getHeader("content-type"))),
  });
}

const noStore: express.RequestHandler = (_req, res, next) => {
  res.setHeader("cache-control", "no-store");
  next();
};
