import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";
import { VitePWA } from "vite-plugin-pwa";

const application = "http://127.0.0.1:8420";

export default defineConfig({
  plugins: [
    react(),
    tailwindcss(),
    VitePWA({
      strategies: "injectManifest",
      srcDir: "src",
      filename: "sw.ts",
      injectRegister: false,
      injectManifest: { globPatterns: ["assets/*.{js,css,woff2}", "*.svg"] },
      manifest: {
        name: "Rundgang, the walk",
        short_name: "Rundgang",
        description: "What is due at each stop of the line; works without a network.",
        start_url: "/walk",
        scope: "/",
        display: "standalone",
        background_color: "#f5f0e6",
        theme_color: "#fffdf8",
        icons: [{ src: "/favicon.svg", sizes: "any", type: "image/svg+xml", purpose: "any" }],
      },
    }),
  ],
  build: { chunkSizeWarningLimit: 900 },
  server: {
    host: "127.0.0.1",
    proxy: { "/api": { target: application, changeOrigin: true, headers: { origin: application } } },
  },
});
