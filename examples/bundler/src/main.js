import { createApp } from "vue";
import App from "./App.vue";
import "./site.css";

createApp(App).mount("#app");
