import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

const application = "http://127.0.0.1:8420";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: { chunkSizeWarningLimit: 900 },
  server: {
    host: "127.0.0.1",
    proxy: { "/api": { target: application, changeOrigin: true, headers: { origin: application } } },
  },
});
