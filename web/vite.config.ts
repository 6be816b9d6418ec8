import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

const SERVER = `http://127.0.0.1:${process.env.LUCID_SERVER_PORT ?? 8080}`;

// Nothing is inlined as a data address: the page's content policy allows its own files only.
export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: { assetsInlineLimit: 0, chunkSizeWarningLimit: 1500 },
  server: {
    proxy: {
      "/api": SERVER,
      "/admin": SERVER,
      "/static": SERVER,
      "/line": { target: SERVER, ws: true },
    },
  },
  test: {
    testTimeout: 60_000, // ms, on a busy machine
    projects: [
      { extends: true, test: { name: "rules", include: ["src/**/*.test.ts"] } },
      {
        extends: true,
        test: {
          name: "panels",
          isolate: false, // one page for all of them, as loading it takes longer than most
          environment: "jsdom",
          include: ["src/**/*.test.tsx"],
          setupFiles: ["src/tests/setup.ts", "src/tests/stores.ts"],
        },
      },
    ],
  },
});
