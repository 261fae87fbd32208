import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react()],
  assetsInclude: [],
  build: { target: "es2022", chunkSizeWarningLimit: 2000 },
  test: { environment: "node", include: ["src/**/*.test.{ts,tsx}"] },
  server: { proxy: { "/api": "http://127.0.0.1:8043" } },
});
