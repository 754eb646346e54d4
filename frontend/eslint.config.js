import vue from "eslint-plugin-vue";
import ts from "typescript-eslint";

export default ts.config(
  { ignores: ["dist", "node_modules", "src/api/schema.d.ts"] },
  ...ts.configs.strict,
  ...vue.configs["flat/recommended"],
  {
    rules: { "@typescript-eslint/no-unused-vars": ["error", { ignoreRestSiblings: true }] },
  },
  {
    files: ["**/*.vue"],
    languageOptions: { parserOptions: { parser: ts.parser } },
    rules: {
      "vue/max-attributes-per-line": "off",
      "vue/singleline-html-element-content-newline": "off",
      "vue/html-self-closing": "off",
      "vue/multi-word-component-names": "off",
      "vue/html-closing-bracket-newline": "off",
      "vue/html-indent": "off",
      "vue/first-attribute-linebreak": "off",
      "vue/multiline-html-element-content-newline": "off",
      // Every control is the library's: one look, one behaviour, registered in src/controls.ts.
      "vue/no-restricted-html-elements": ["error", "button", "select", "textarea", "input", "dialog"],
      // A hint is ElTooltip, or data-hint where there are many (src/components/frame/HintLayer.vue).
      "vue/no-restricted-static-attribute": ["error", { key: "title", element: "/^[a-z]/" }],
      "vue/no-restricted-v-bind": ["error", { argument: "title", element: "/^[a-z]/" }],
    },
  },
);
