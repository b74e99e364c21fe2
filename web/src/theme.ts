import { useI18n } from "vue-i18n";
import { createVuetify, type ThemeDefinition } from "vuetify";
import { aliases, mdi } from "vuetify/iconsets/mdi-svg";
import { createVueI18nAdapter } from "vuetify/locale/adapters/vue-i18n";
import { i18n } from "@/i18n";

const paper: ThemeDefinition = {
  dark: false,
  colors: {
    background: "#f5f1e6",
    surface: "#fcfaf3",
    primary: "#32505e",
    secondary: "#5b6a70",
    now: "#b44c06",
    out: "#b0203f",
    "on-background": "#1d2a30",
    "on-surface": "#1d2a30",
    "on-primary": "#fcfaf3",
  },
};

const bench: ThemeDefinition = {
  dark: true,
  colors: {
    background: "#12171a",
    surface: "#1a2125",
    primary: "#ff9142",
    secondary: "#a3b4ba",
    now: "#ff9142",
    out: "#ff6f83",
    "on-background": "#eef1ee",
    "on-surface": "#eef1ee",
    "on-primary": "#12171a",
  },
};

const flat = { rounded: 0, elevation: 0 };

export const vuetify = createVuetify({
  theme: { defaultTheme: "paper", themes: { paper, bench } },
  icons: { defaultSet: "mdi", aliases, sets: { mdi } },
  // The one set of breakpoints; styles go by the classes that App.vue makes of them.
  display: {
    mobileBreakpoint: "md",
    thresholds: { xs: 0, sm: 600, md: 1000, lg: 1200, xl: 1920, xxl: 2560 },
  },
  locale: { adapter: createVueI18nAdapter({ i18n, useI18n }) },
  defaults: {
    VBtn: { ...flat, variant: "flat", ripple: false, height: 64 },
    VCard: { ...flat },
    VDialog: { maxWidth: 620, transition: false, scrim: "#000" },
    VTextarea: { variant: "outlined", rounded: 0, hideDetails: "auto", rows: 3, color: "primary" },
    VTextField: {
      variant: "outlined",
      rounded: 0,
      hideDetails: "auto",
      color: "primary",
      density: "comfortable",
    },
    VSelect: {
      variant: "outlined",
      rounded: 0,
      hideDetails: "auto",
      color: "primary",
      density: "comfortable",
    },
    VCheckbox: { hideDetails: "auto", color: "primary" },
  },
});
