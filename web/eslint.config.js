import js from "@eslint/js";
import importX from "eslint-plugin-import-x";
import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";
import { readdirSync } from "node:fs";

// The layers of src from the ground up: each imports from those before it.
const layers = [["ui", "api"], ["work"], ["parts"], ["views"], ["app"]];

/** What each folder must not import: every layer above its own, its neighbours at the ground, and other views. */
function zones() {
  const from = (folders, what) => ({ from: folders.map((f) => `./src/${f}`), message: what });
  const out = layers.slice(0, -1).flatMap((layer, i) =>
    layer.map((folder) => ({
      target: `./src/${folder}`,
      ...from(
        [...layers.slice(i + 1).flat(), ...layer.filter((other) => other !== folder)],
        `${folder} stands beside or below it`,
      ),
    })),
  );
  const views = readdirSync(new URL("src/views", import.meta.url));
  for (const view of views) {
    const others = views.filter((other) => other !== view).map((other) => `views/${other}`);
    out.push({ target: `./src/views/${view}`, ...from(others, "a view imports no other view") });
  }
  return out;
}

export default ts.config({ ignores: ["dist", "src/api/schema.gen.ts"] }, js.configs.recommended, ...ts.configs.strict, {
  plugins: { "react-hooks": hooks, "import-x": importX },
  settings: { "import-x/resolver": { node: { extensions: [".ts", ".tsx"] } } },
  rules: {
    ...hooks.configs.recommended.rules,
    "import-x/no-restricted-paths": ["error", { basePath: import.meta.dirname, zones: zones() }],
  },
});
