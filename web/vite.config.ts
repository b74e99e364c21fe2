import { fileURLToPath, URL } from "node:url";
import vue from "@vitejs/plugin-vue";
import vuetify from "vite-plugin-vuetify";
import { compression, defineAlgorithm } from "vite-plugin-compression2";
import { VitePWA } from "vite-plugin-pwa";
import { defineConfig } from "vitest/config";

const here = (path: string): string => fileURLToPath(new URL(path, import.meta.url));

export default defineConfig({
  plugins: [
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
  test: { environment: "jsdom", server: { deps: { inline: ["vuetify"] } } },
});
