/** Imports flow one way, downwards: ARCHITECTURE.md has the table. */
const only = (name, path, allowed) => ({
  name,
  severity: "error",
  comment: `${path} may only import itself and: ${allowed.join(", ") || "nothing of ours"}`,
  from: { path: `^${path}/(src|bin)/` },
  to: { path: "^(packages|bench)/", pathNot: [`^${path}/`, ...allowed.map((one) => `^packages/${one}/`)] },
});

/** Folders from the lowest to the highest: none imports one above it. */
const layers = (root, folders) =>
  folders.slice(0, -1).map((folder, index) => ({
    name: `below-${folder}`,
    severity: "error",
    comment: `${folder} is below ${folders.slice(index + 1).join(", ")}`,
    from: { path: `^${root}/${folder}/` },
    to: { path: `^${root}/(${folders.slice(index + 1).join("|")})/` },
  }));

module.exports = {
  forbidden: [
    {
      name: "no-circles",
      severity: "error",
      from: {},
      to: { circular: true },
    },
    only("core-imports-nothing", "packages/core", []),
    {
      name: "core-has-no-io",
      severity: "error",
      comment: "the core is pure: no packages, no Node.js modules",
      from: { path: "^packages/core/src/" },
      to: { pathNot: "^packages/core/src/" },
    },
    only("api", "packages/api", ["core"]),
    only("service", "packages/service", ["core", "api", "translators"]),
    only("cli", "packages/cli", ["api", "core"]),
    only("console", "packages/console", ["api", "core"]),
    only("translators", "packages/translators", ["core", "api"]),
    only("standins", "packages/standins", ["core", "translators"]),
    only("rig", "packages/rig", ["api", "core"]),
    only("soak", "packages/soak", ["api", "rig", "standins"]),
    only("bench", "bench", ["rig", "core", "api", "service"]),
    ...layers("packages/service/src", [
      "platform",
      "store",
      "auth",
      "state",
      "broker",
      "delivery",
      "views",
      "http-exchange",
      "peers",
      "inlets",
      "model",
      "requests",
      "commissioning",
      "reporting",
      "http",
      "sharing",
      "app",
      "instance",
      "program",
    ]),
    {
      name: "inlets-ask-and-nothing-else",
      severity: "error",
      comment: "an inlet is handed what it may call (RequestService): it sees neither lanes nor the link",
      from: { path: "^packages/service/src/inlets/" },
      to: { path: "^packages/service/src/(delivery/|broker/link)" },
    },
    {
      name: "no-tests-in-sources",
      severity: "error",
      from: { path: "/src/", pathNot: "vitest" },
      to: { path: "/test/|node_modules/vitest/" },
    },
  ],
  options: {
    tsPreCompilationDeps: true,
    tsConfig: { fileName: "tsconfig.base.json" },
    enhancedResolveOptions: {
      exportsFields: ["exports"],
      conditionNames: ["import", "node", "default"],
      extensions: [".ts", ".tsx", ".js"],
    },
    doNotFollow: { path: "node_modules|/dist/" },
    exclude: { path: "/dist/" },
  },
};
