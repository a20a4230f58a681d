// Only what needs types: Biome does the rest, faster.
import tseslint from "typescript-eslint";

export default tseslint.config(
  {
    ignores: [
      "**/dist/**",
      "**/*.js",
      "**/*.cjs",
      "packages/console/vite.config.ts",
      "vitest.config.ts",
      "packages/cli/bin/**",
    ],
  },
  {
    files: ["packages/*/src/**/*.{ts,tsx}", "bench/src/**/*.ts"],
    languageOptions: { parser: tseslint.parser, parserOptions: { projectService: true } },
    plugins: { "@typescript-eslint": tseslint.plugin },
    rules: {
      "@typescript-eslint/no-floating-promises": "error",
      "@typescript-eslint/no-misused-promises": ["error", { checksVoidReturn: { arguments: false } }],
      "@typescript-eslint/await-thenable": "error",
      "@typescript-eslint/switch-exhaustiveness-check": "error",
      "@typescript-eslint/no-unnecessary-condition": "off",
      "@typescript-eslint/only-throw-error": "error",
      "@typescript-eslint/return-await": ["error", "in-try-catch"],
    },
  },
);
