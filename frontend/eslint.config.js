import hooks from "eslint-plugin-react-hooks";
import globals from "globals";
import tseslint from "typescript-eslint";

// Layers: kit, stage < show < shop, exchange < steps < app. Each may import from those before it, never from those after.
const above = (folders, files) => ({
  files,
  rules: {
    "no-restricted-imports": [
      "error",
      { patterns: folders.map((name) => ({ regex: `(^|/)${name}/`, message: `${files[0]} lies below ${name}/.` })) },
    ],
  },
});

export default tseslint.config(
  ...tseslint.configs.strict,
  {
    files: ["src/**/*.{ts,tsx}"],
    ignores: ["src/show/api.generated.ts"],
    languageOptions: { globals: globals.browser },
    plugins: { "react-hooks": hooks },
    rules: {
      ...hooks.configs.recommended.rules,
      "@typescript-eslint/no-unused-vars": ["error", { argsIgnorePattern: "^_" }],
      // No colour is written in a component: tokens of kit/theme.ts.
      "no-restricted-syntax": ["error", { selector: "JSXAttribute Literal[value=/^#[0-9a-fA-F]{3,8}$/]", message: "Use a colour token of kit/theme.ts." }],
    },
  },
  above(["show", "shop", "steps", "app", "stage"], ["src/kit/**/*"]),
  above(["show", "shop", "steps", "app", "kit"], ["src/stage/**/*"]),
  above(["shop", "steps", "app"], ["src/show/**/*"]),
  above(["steps", "app"], ["src/shop/**/*"]),
  above(["steps", "app", "shop"], ["src/exchange/**/*"]),
  above(["app"], ["src/steps/**/*"]),
  ...["site", "hang", "aim", "patch", "signal", "looks", "review", "papers"].map((step, _, all) =>
    ({
      files: [`src/steps/${step}/**/*`],
      rules: {
        "no-restricted-imports": [
          "error",
          {
            patterns: [
              { regex: "(^|/)app/", message: "steps lie below app/." },
              { regex: `\\.\\./(${all.filter((other) => other !== step).join("|")})/`, message: "Nothing imports across steps: move it down to show/ or kit/." },
            ],
          },
        ],
      },
    }),
  ),
);
