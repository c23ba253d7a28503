// npm run schemas: writes the published JSON Schemas and the page of words from the built core.
import { writeFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { documentSchemas, glossaryPage } from "../core/dist/index.js";

const docs = path.join(path.dirname(path.dirname(fileURLToPath(import.meta.url))), "docs");
const folder = path.join(docs, "schemas");
for (const [kind, schema] of Object.entries(documentSchemas())) {
  writeFileSync(path.join(folder, `${kind}.schema.json`), `${JSON.stringify(schema, null, 2)}\n`);
}
writeFileSync(path.join(docs, "words.md"), glossaryPage());
