import { learnLanguage } from "@/i18n";

// Whatever is mounted by itself was reached by somebody who has signed in.
await learnLanguage("en");
