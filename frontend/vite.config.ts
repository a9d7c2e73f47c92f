import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react()],
  build: { outDir: "../jolly_clerk/web/static", emptyOutDir: true, target: "es2023", chunkSizeWarningLimit: 900 },
  server: { proxy: { "/api": "http://127.0.0.1:8321" } },
});
