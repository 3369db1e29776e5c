import { createPinia } from "pinia";
import PrimeVue from "primevue/config";
import { createApp } from "vue";

import App from "./App.vue";
import { i18n } from "./i18n";
import { router } from "./router";
import "./styles.css";
import { theme } from "./theme";

createApp(App).use(createPinia()).use(router).use(i18n).use(PrimeVue, { theme }).mount("#app");
