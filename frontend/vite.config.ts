import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

// What nearly every page needs comes in a few large files and not in seventy small ones: each costs a way to the server.
// A library that only some pages need stays out of them, and comes with those.
const ON_EVERY_PAGE =
  /node_modules[\\/](@mantine[\\/](core|hooks)|react|react-dom|react-router|react-i18next|scheduler|i18next|@tanstack|@floating-ui|clsx|openapi-fetch|idb-keyval|react-error-boundary)[\\/].*\.m?js$/;

// What everything else is said with, and the way to fetch the rest: it is there before the first module that says something.
const WORDS = /src[\\/](shared[\\/]text\.ts|texts[\\/]en\.json)$|vite[\\/]preload-helper/;

export default defineConfig({
  plugins: [react()],
  build: {
    outDir: "../jolly_clerk/web/static",
    emptyOutDir: true,
    target: "es2023",
    chunkSizeWarningLimit: 900,
    rolldownOptions: {
      output: {
        codeSplitting: {
          groups: [
            { name: "library", test: ON_EVERY_PAGE, priority: 3 },
            { name: "words", test: WORDS, priority: 2 },
            { name: "shared", test: /src[\\/].*\.tsx?$/, minShareCount: 3, priority: 1 },
          ],
        },
      },
    },
  },
  server: { proxy: { "/api": "http://127.0.0.1:8321" } },
});
