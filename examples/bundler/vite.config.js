import vue from "@vitejs/plugin-vue";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [vue()],
  server: { fs: { allow: ["../.."] } }, // only here, where masters/ is a link to those of the demo
});
