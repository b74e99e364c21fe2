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
import { LinkError } from "@/api/client";
import App from "@/App.vue";
import { i18n, marked } from "@/i18n";
import { firstLanguage, showFirstIn } from "@/shared/language";
import { openWithoutServer } from "@/shared/serviceWorker";
import { router } from "@/router";
import { useLink } from "@/shared/link";
import { vuetify } from "@/theme";

const app = createApp(App).use(createPinia()).use(i18n).use(router).use(vuetify);
app.config.errorHandler = (error): void => {
  if (!(error instanceof LinkError)) throw error;
  useLink().pageMissing = true;
};
if (!marked) await showFirstIn(firstLanguage());
app.mount("#app");
void openWithoutServer();
