/// <reference types="vite/client" />
declare module "*.vue" {
  import type { DefineComponent } from "vue";

  const component: DefineComponent;
  export default component;
}

declare module "virtual:first-words/*" {
  const words: Record<string, Record<string, string>>;
  export default words;
}
