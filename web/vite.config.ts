import tailwindcss from "@tailwindcss/vite";
import { svelte } from "@sveltejs/vite-plugin-svelte";
import { svelteTesting } from "@testing-library/svelte/vite";
import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { brotliCompressSync } from "node:zlib";
import type { Plugin } from "vite";
import { defineConfig } from "vitest/config";

/** Writes a compressed copy next to each script and style, which the server sends as it is. */
const packed: Plugin = {
  name: "packed",
  apply: "build",
  writeBundle: ({ dir }, bundle) => {
    for (const name of Object.keys(bundle).filter((name) => /\.(js|css)$/.test(name))) {
      const path = join(dir!, name);
      writeFileSync(`${path}.br`, brotliCompressSync(readFileSync(path)));
    }
  },
};

export default defineConfig({
  plugins: [svelte(), tailwindcss(), svelteTesting(), packed],
  build: {
    target: "es2022",
    assetsInlineLimit: 0,
    modulePreload: { polyfill: false },
    rolldownOptions: {
      output: {
        codeSplitting: {
          // What many places share comes at once, instead of in dozens of small files; but what only dialogs need, with them.
          groups: [{ name: "shared", minShareCount: 4, test: /^(?!.*@zag-js\/(focus-trap|aria-hidden))/ }],
        },
      },
    },
  },
  server: { fs: { allow: [".."] }, proxy: { "/api": "http://127.0.0.1:4270" } },
  test: {
    environment: "jsdom",
    include: ["src/**/*.test.ts", "sender/**/*.test.ts"],
    setupFiles: ["src/testing/setup.ts"],
    testTimeout: 30_000,
    // Loading all modules anew for each file takes four times as long as the tests; what they keep is set back in setup.ts.
    isolate: false,
  },
});
