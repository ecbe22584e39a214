import vue from "@vitejs/plugin-vue";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [vue()],
  build: { target: "es2022", chunkSizeWarningLimit: 900, assetsInlineLimit: 0 },
  server: { proxy: { "/api": "http://127.0.0.1:8000", "/enter": "http://127.0.0.1:8000" } },
  // one world for all files: each makes its own stores, and what they import is read once
  test: {
    environment: "happy-dom",
    include: ["src/**/*.test.ts"],
    isolate: false,
    setupFiles: ["vitest.silent.ts"],
    pool: "threads",
    testTimeout: 60_000,
  },
});
