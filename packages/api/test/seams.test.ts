/**
 * A new kind is its file plus its line in the index, and whatever is forgotten does not compile. Played with kinds that nobody
 * has, laid over the sources of the packages without writing them.
 */
import { resolve } from "node:path";
import { fileURLToPath } from "node:url";
import ts from "typescript";
import { expect, it } from "vitest";
import { SPRINKLER_SOURCE } from "../../core/test/support/sprinkler.ts";

const ROOT = resolve(fileURLToPath(import.meta.url), "../../../..");

/** Where kinds are listed or laid out by name; whatever of the core they reach is looked at, too. */
const LISTS = [
  "packages/core/src/index.ts",
  "packages/api/src/schema/inlet-settings.ts",
  "packages/api/src/schema/payload-form.ts",
  "packages/service/src/inlets/kinds/index.ts",
  "packages/console/src/pages/board/channel-keys.ts",
];

type Change = (source: string) => string;

/** @returns what does not compile then, by file */
function compiled(changes: Readonly<Record<string, Change>>): Record<string, string> {
  const { config } = ts.readConfigFile(resolve(ROOT, "tsconfig.base.json"), ts.sys.readFile);
  const { options } = ts.convertCompilerOptionsFromJson(
    {
      ...config.compilerOptions,
      ...{ rootDir: ROOT, outDir: undefined, tsBuildInfoFile: undefined, composite: false, declaration: false },
      ...{ declarationMap: false, sourceMap: false, noEmit: true, rewriteRelativeImportExtensions: false },
      ...{ lib: ["ES2024", "DOM", "DOM.Iterable"], jsx: "react-jsx", types: ["node", "vite/client"] },
    },
    ROOT,
  );
  const host = ts.createCompilerHost(options);
  const changeOf = (file: string) => changes[file.replace(`${ROOT}/`, "")];
  const { readFile, fileExists } = host;
  host.fileExists = (file) => changeOf(file) !== undefined || fileExists.call(host, file);
  host.readFile = (file) => changeOf(file)?.(readFile.call(host, file) ?? "") ?? readFile.call(host, file);
  host.getSourceFile = (file, target) => {
    const source = host.readFile(file);
    return source === undefined ? undefined : ts.createSourceFile(file, source, target);
  };
  const roots = LISTS.map((file) => resolve(ROOT, file));
  const program = ts.createProgram(roots, options, host);
  const looked = program
    .getSourceFiles()
    .filter(({ fileName }) => fileName.startsWith(`${ROOT}/packages/core/src/`) || roots.includes(fileName));
  const found = looked.flatMap((file) => [...program.getSemanticDiagnostics(file)]);
  return Object.fromEntries(
    found.map(({ file, messageText }) => [
      file?.fileName.replace(`${ROOT}/`, "") ?? "",
      ts.flattenDiagnosticMessageText(messageText, "\n"),
    ]),
  );
}

const insert =
  (before: string, more: string): Change =>
  (source) => {
    if (!source.includes(before)) throw new Error(`There is no ${before} any more`);
    return source.replace(before, `${more}${before}`);
  };

it("a channel kind is two files, and a forgotten part of any kind does not compile", { timeout: 120_000 }, () => {
  const channels = "packages/core/src/channel";
  const errors = compiled({
    // Whole: nothing else anywhere may ask for more.
    [`${channels}/sprinkler.ts`]: () => SPRINKLER_SOURCE,
    // With its name only.
    [`${channels}/nameless.ts`]: () =>
      'import type { ChannelKind } from "./kind.ts";\nexport const nameless: ChannelKind = { name: "nameless" };\n',
    [`${channels}/index.ts`]: (source) =>
      insert(
        "export const channelKinds",
        'import { nameless } from "./nameless.ts";\nimport { sprinkler } from "./sprinkler.ts";\n',
      )(insert("  relay,\n", "  nameless,\n  sprinkler,\n")(source)),
    // A kind of inlet and a form of payload that are only named.
    "packages/core/src/inlet/model.ts": insert('"hook",', '"pager", '),
    "packages/core/src/codec/payload-form.ts": insert('"json" | "word"', '"knocks" | '),
  });
  expect(Object.keys(errors).sort()).toEqual([
    "packages/api/src/schema/inlet-settings.ts",
    "packages/api/src/schema/payload-form.ts",
    `${channels}/nameless.ts`,
    "packages/core/src/codec/index.ts",
    "packages/core/src/inlet/kind/index.ts",
    "packages/service/src/inlets/kinds/index.ts",
  ]);
  const missing = Object.entries(errors).map(([, text]) => /missing the following|is missing in type/.test(text));
  expect([...new Set(missing)]).toEqual([true]);
});
