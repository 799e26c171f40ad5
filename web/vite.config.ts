import tailwindcss from "@tailwindcss/vite";
import { svelte } from "@sveltejs/vite-plugin-svelte";
import { svelteTesting } from "@testing-library/svelte/vite";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [svelte(), tailwindcss(), svelteTesting()],
  build: { target: "es2022", assetsInlineLimit: 0, modulePreload: { polyfill: false } },
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
