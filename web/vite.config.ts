import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: {
    chunkSizeWarningLimit: 900, // three alone is over the default; it loads with the first lit picture
    assetsInlineLimit: 0, // the security policy refuses fonts that lie inside of styles
  },
  server: { proxy: { "/api": "http://127.0.0.1:8420" } },
});
