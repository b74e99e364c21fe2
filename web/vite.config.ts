import { fileURLToPath, URL } from "node:url";
import vue from "@vitejs/plugin-vue";
import vuetify from "vite-plugin-vuetify";
import { compression, defineAlgorithm } from "vite-plugin-compression2";
import { VitePWA } from "vite-plugin-pwa";
import { readFileSync } from "node:fs";
import type { Plugin } from "vite";
import { defineConfig } from "vitest/config";

const here = (path: string): string => fileURLToPath(new URL(path, import.meta.url));

const FIRST_WORDS = "virtual:first-words/";
/** What is said until somebody has signed in. */
const FIRST = ["signin", "ui", "error", "role", "bench.wipe", "bench.decimal", "bench.keypad", "bench.minus"];

/** The part of each catalogue that signing in needs: the rest of it comes after. */
function firstWords(): Plugin {
  return {
    name: "first-words",
    resolveId: (id) => (id.startsWith(FIRST_WORDS) ? `\0${id}` : undefined),
    load: (id): string | undefined => {
      if (!id.startsWith(`\0${FIRST_WORDS}`)) return undefined;
      const file = here(`../src/jorvek/messages/${id.slice(FIRST_WORDS.length + 1)}.json`);
      const words = JSON.parse(readFileSync(file, "utf8")) as Record<string, Record<string, unknown>>;
      const first: Record<string, Record<string, unknown>> = {};
      for (const name of FIRST) {
        const [section = "", key] = name.split(".");
        first[section] =
          key === undefined ? { ...words[section] } : { ...first[section], [key]: words[section]?.[key] };
      }
      return `export default ${JSON.stringify(first)};`;
    },
  };
}

export default defineConfig({
  plugins: [
    firstWords(),
    vue(),
    vuetify({ autoImport: true }),
    // Compressed once, when it is built; the server hands out what is there.
    compression({
      include: /\.(html|js|css|svg)$/,
      algorithms: [defineAlgorithm("brotliCompress"), defineAlgorithm("gzip", { level: 9 })],
      threshold: 1000,
    }),
    VitePWA({
      filename: "worker.js",
      injectRegister: null,
      manifest: false,
      workbox: {
        globPatterns: ["**/*.{html,js,css,svg,woff2}"],
        navigateFallbackDenylist: [/^\/api\//],
        maximumFileSizeToCacheInBytes: 6_000_000,
        inlineWorkboxRuntime: true,
        clientsClaim: true,
      },
    }),
  ],
  resolve: { alias: { "@messages": here("../src/jorvek/messages"), "@": here("./src") } },
  optimizeDeps: { exclude: ["vuetify"] },
  build: { target: "es2022", chunkSizeWarningLimit: 900 },
  server: { proxy: { "/api": "http://127.0.0.1:8071" } },
  test: {
    setupFiles: ["tests/words.ts"],
    environment: "jsdom",
    server: { deps: { inline: ["vuetify"] } },
  },
});
