import pluginVue from "eslint-plugin-vue";
import tseslint from "typescript-eslint";

export default tseslint.config(
  { ignores: ["dist/", "src/api/schema.d.ts", "node_modules/"] },
  ...tseslint.configs.strictTypeChecked,
  ...pluginVue.configs["flat/recommended"],
  {
    languageOptions: {
      parserOptions: {
        parser: tseslint.parser,
        project: "./tsconfig.json",
        extraFileExtensions: [".vue"],
      },
    },
    rules: {
      "@typescript-eslint/explicit-function-return-type": "error",
      "@typescript-eslint/restrict-template-expressions": ["error", { allowNumber: true }],
      "vue/block-lang": ["error", { script: { lang: "ts" } }],
      // Key caps, digits and signs are the same in every language.
      "vue/no-bare-strings-in-template": [
        "error",
        {
          allowlist: [
            "T",
            "R",
            "F",
            "N",
            "H",
            "⌫",
            "0",
            "→",
            "—",
            "·",
            "/",
            ",",
            ".",
            ":",
            "(",
            ")",
            "…",
            "≤",
            "≥",
            "≈",
          ],
        },
      ],
      // Prettier owns the layout of templates.
      "vue/html-self-closing": "off",
      "vue/max-attributes-per-line": "off",
      "vue/singleline-html-element-content-newline": "off",
      "vue/html-indent": "off",
      "vue/html-closing-bracket-newline": "off",
      "vue/multiline-html-element-content-newline": "off",
      "vue/attributes-order": "off",
    },
  },
  { files: ["eslint.config.js"], ...tseslint.configs.disableTypeChecked },
);
