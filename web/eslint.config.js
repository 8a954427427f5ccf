import js from "@eslint/js";
import prettier from "eslint-config-prettier";
import vue from "eslint-plugin-vue";
import ts from "typescript-eslint";

const AREAS = ["today", "people", "capture", "workflows", "diary", "outside", "practice", "set-up"];
const across = (patterns, message) => ["error", { patterns: [{ group: patterns, message }] }];

export default ts.config(
  { ignores: ["dist", "node_modules", "src/api/*.gen.ts", "src/components.d.ts", "eslint.config.js", "vite.config.ts"] },
  js.configs.recommended,
  ...ts.configs.recommendedTypeChecked,
  ...vue.configs["flat/recommended"],
  prettier, // how lines are broken is its matter
  {
    languageOptions: { parserOptions: { parser: ts.parser, projectService: true, extraFileExtensions: [".vue"] } },
  },
  {
    rules: {
      "no-undef": "off",
      "max-lines": ["error", { max: 300, skipBlankLines: true, skipComments: true }],
      "vue/multi-word-component-names": "off",
      "vue/no-v-html": "error",
      // Types that the compiler of templates gives are not known to these.
      "@typescript-eslint/no-unsafe-argument": "off",
      "@typescript-eslint/no-unsafe-assignment": "off",
      "@typescript-eslint/no-unsafe-call": "off",
      "@typescript-eslint/no-unsafe-member-access": "off",
      "@typescript-eslint/no-unsafe-return": "off",
      // Values of parts are of any sort, by their kind; plain words of them are meant.
      "@typescript-eslint/no-base-to-string": "off",
      "@typescript-eslint/restrict-plus-operands": "off",
      "@typescript-eslint/no-unnecessary-type-assertion": "off",
      "@typescript-eslint/unbound-method": "off",
      // What is waited for by nobody says so, by `void`; what listens may be asynchronous.
      "@typescript-eslint/no-floating-promises": "error",
      "@typescript-eslint/no-misused-promises": ["error", { checksVoidReturn: false }],
      "no-restricted-syntax": [
        "error",
        {
          selector: "TSAsExpression[expression.property.name='target']",
          message: "Whatever an event came from is looked at (instanceof), not taken for something.",
        },
      ],
      "vue/no-restricted-syntax": [
        "error",
        { selector: "TSAsExpression[expression.property.name='target']", message: "Take the event, and look at what it came from." },
      ],
    },
  },
  // What stands under all areas knows none of them; an area knows no other.
  {
    files: ["src/{ui,sentences,shared,queries,frame,api}/**"],
    rules: { "no-restricted-imports": across(["@/areas/**"], "What areas share knows none of them.") },
  },
  {
    files: ["src/ui/**", "src/sentences/**"],
    rules: { "no-restricted-imports": across(["@/areas/**", "@/shared/**", "@/frame/**"], "This stands under what areas share.") },
  },
  ...AREAS.map((area) => ({
    files: [`src/areas/${area}/**`],
    rules: {
      "no-restricted-imports": across(
        AREAS.filter((other) => other !== area).map((other) => `@/areas/${other}/**`),
        "An area knows no other: what both need stands in shared/, sentences/ or ui/.",
      ),
    },
  })),
);
