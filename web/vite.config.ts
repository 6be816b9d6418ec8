import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

// Nothing is inlined as a data address: the page's content policy allows its own files only.
export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: { assetsInlineLimit: 0, chunkSizeWarningLimit: 1500 },
  server: { proxy: { "/api": "http://127.0.0.1:8080" } },
  test: { include: ["src/**/*.test.ts"] },
});
