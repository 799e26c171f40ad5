import tailwindcss from "@tailwindcss/vite";
import { svelte } from "@sveltejs/vite-plugin-svelte";
import { svelteTesting } from "@testing-library/svelte/vite";
import { readFileSync, writeFileSync } from "node:fs";
import { dirname, join, resolve } from "node:path";
import { brotliCompressSync } from "node:zlib";
import type { Plugin, Rolldown } from "vite";
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

/** The files that name the places, and the address under which each lists them. */
const PLACES = {
  "src/shell/load.ts": "",
  "src/analyses/load.ts": "analyses/",
  "src/lifecycle/load.ts": "lifecycle/",
};

/** Writes which scripts each place needs, for the server to name them before the page asks. */
const early: Plugin = {
  name: "early",
  apply: "build",
  generateBundle(_, bundle) {
    const chunks = Object.values(bundle).filter((one) => one.type === "chunk");
    const scripts: Record<string, string[]> = {};
    for (const [file, address] of Object.entries(PLACES))
      for (const [, key, path] of readFileSync(file, "utf8").matchAll(
        /^ {2}"?([^\s":]*)"?: .*import\("(.+)"\)/gm,
      ))
        scripts[`${address}${key}`] = needed(chunks, resolve(dirname(file), path!));
    this.emitFile({ type: "asset", fileName: "early.json", source: JSON.stringify(scripts) });
  },
};

/** The scripts of a module and of all that it imports, without those of the page itself. */
function needed(chunks: Rolldown.OutputChunk[], module: string): string[] {
  const chunk = chunks.find(({ facadeModuleId }) => facadeModuleId === module);
  if (!chunk) throw new Error(`${module} has no script`);
  const imported = (names: Set<string>, { fileName, imports }: Rolldown.OutputChunk): Set<string> => {
    if (names.has(fileName)) return names;
    names.add(fileName);
    return chunks.filter((one) => imports.includes(one.fileName)).reduce(imported, names);
  };
  const page = imported(
    new Set(),
    chunks.find(({ isEntry }) => isEntry)!,
  );
  return [...imported(new Set(), chunk)].filter((name) => !page.has(name));
}

export default defineConfig({
  plugins: [svelte(), tailwindcss(), svelteTesting(), packed, early],
  build: {
    target: "es2022",
    assetsInlineLimit: 0,
    // The styles of all places are smaller than one more request is slow.
    cssCodeSplit: false,
    modulePreload: { polyfill: false },
    rolldownOptions: {
      output: {
        codeSplitting: {
          // What many places share comes at once, and small modules come together, instead of in dozens of small files;
          // but what only dialogs need comes with them.
          groups: [
            { name: "phrases", minShareCount: 2, priority: 1, test: /src\/analyses\/[^/]+$/ },
            {
              name: "shared",
              minShareCount: 8,
              test: /^(?!.*(@zag-js\/(focus-trap|aria-hidden|pagination)|\/pagination\/|ui\/Pager))/,
            },
            {
              name: "exports",
              minShareCount: 2,
              test: /src\/(exports|campaigns|people|audiences\/conditions)\//,
            },
            {
              name: "small",
              minShareCount: 2,
              test: /src\/(lib|ui\/(RemoveButton|Wide|Parts|Reserved|Facts|Conflict))/,
            },
          ],
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
