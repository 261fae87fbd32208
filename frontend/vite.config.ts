import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react()],
  assetsInclude: [],
  build: { target: "es2022", chunkSizeWarningLimit: 2000 },
  // A test that waits for ever is found out, one on a slow machine is not.
  test: { environment: "node", include: ["src/**/*.test.{ts,tsx}"], testTimeout: 60_000, hookTimeout: 60_000 },
  server: { proxy: { "/api": "http://127.0.0.1:8043" } },
});
