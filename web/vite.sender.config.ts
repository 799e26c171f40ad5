import { defineConfig } from "vite";

/** The browser sender as one small script that puts `Estrel` on the page. */
export default defineConfig({
  publicDir: false,
  build: {
    target: "es2020",
    outDir: "dist/sender",
    emptyOutDir: false,
    lib: { entry: "sender/sender.ts", name: "Estrel", formats: ["iife"], fileName: () => "estrel-sender.js" },
  },
});
