import "@fontsource/b612-mono/latin-400.css";
import "@fontsource/b612/latin-400.css";
import "@fontsource/b612/latin-700.css";
import "@fontsource/barlow-condensed/latin-500.css";
import "@fontsource/barlow-condensed/latin-600.css";
import "@fontsource/barlow-condensed/latin-ext-500.css";
import "@fontsource/barlow-condensed/latin-ext-600.css";
import "vuetify/styles";
import "./styles.css";

import { createPinia } from "pinia";
import { createApp } from "vue";
import App from "./App.vue";
import { i18n } from "./i18n";
import { router } from "./router";
import { vuetify } from "./theme";

createApp(App).use(createPinia()).use(i18n).use(router).use(vuetify).mount("#app");
