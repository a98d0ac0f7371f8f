import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

const server = "http://127.0.0.1:8400";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: { chunkSizeWarningLimit: 1600, assetsInlineLimit: 0 },
  server: { proxy: { "/api": { target: server, ws: true, changeOrigin: true } } },
});
