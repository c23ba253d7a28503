// npm run schemas: writes the published JSON Schemas from the built core.
import { writeFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { documentSchemas } from "../core/dist/index.js";

const folder = path.join(path.dirname(path.dirname(fileURLToPath(import.meta.url))), "docs/schemas");
for (const [kind, schema] of Object.entries(documentSchemas())) {
  writeFileSync(path.join(folder, `${kind}.schema.json`), `${JSON.stringify(schema, null, 2)}\n`);
}
