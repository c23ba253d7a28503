// npm run notices: writes THIRD-PARTY-NOTICES.md, which names everything by others that this application runs with,
// with its licence. Packages that only build or test it are left out.
import { existsSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";

const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));
const FILE = "THIRD-PARTY-NOTICES.md";

/** @typedef {{ name: string, version: string, place: string }} Used */

/** @param {string} lockText - package-lock.json @returns {Used[]} packages it runs with, by name */
export function usedPackages(lockText) {
  const { packages } = JSON.parse(lockText);
  return Object.entries(packages)
    .filter(
      ([place, { dev, devOptional, optional, link }]) => place.includes("node_modules/") && !dev && !devOptional && !optional && !link,
    )
    .map(([place, { version }]) => ({ name: place.slice(place.lastIndexOf("node_modules/") + 13), version, place }))
    .sort((a, b) => (a.name + a.version < b.name + b.version ? -1 : 1));
}

/** @param {string} folder @returns {string} the text of its licence; empty when it has none of its own */
function licenceText(folder) {
  if (!existsSync(folder)) return "";
  const file = readdirSync(folder).find((name) => /^licen[cs]e(\.|$)|^copying/i.test(name));
  return file ? readFileSync(path.join(folder, file), "utf8").replace(/\r\n/g, "\n").trim() : "";
}

/** @param {string} text @returns {{ holders: string[], rest: string }} copyright lines, and the licence without them */
function split(text) {
  const lines = text.split("\n");
  const isHolder = (/** @type {string} */ line) => /^\s*(copyright\b|\(c\)|©)/i.test(line) && line.length < 200;
  return {
    holders: lines.filter(isHolder).map((line) => line.trim()),
    rest: lines
      .filter((line) => !isHolder(line))
      .join("\n")
      .replace(/\n{3,}/g, "\n\n")
      .trim(),
  };
}

function main() {
  const used = usedPackages(readFileSync(path.join(root, "package-lock.json"), "utf8"));
  /** @type {Map<string, { rest: string, number: number }>} */
  const texts = new Map();
  const seen = new Set();
  const entries = used.flatMap(({ name, version, place }) => {
    if (seen.has(`${name} ${version}`)) return [];
    seen.add(`${name} ${version}`);
    const folder = path.join(root, place);
    const { license = "see its package" } = existsSync(folder) ? JSON.parse(readFileSync(path.join(folder, "package.json"), "utf8")) : {};
    const { holders, rest } = split(licenceText(folder));
    const key = rest.replace(/\s+/g, " ");
    if (rest !== "" && !texts.has(key)) texts.set(key, { rest, number: texts.size + 1 });
    const where = rest === "" ? "" : `, text ${texts.get(key)?.number}`;
    return [
      `- ${name} ${version}: ${typeof license === "string" ? license : license.type}${where}${holders.length > 0 ? `  \n  ${holders.slice(0, 4).join("  \n  ")}` : ""}`,
    ];
  });
  const licences = [...texts.values()].map(({ rest, number }) => `### Text ${number}\n\n\`\`\`\n${rest}\n\`\`\``);
  const words =
    "Giddy Pebble is under the MIT licence (LICENSE). It runs with these packages by others, each under its own licence. `npm run notices` writes this list.";
  writeFileSync(
    path.join(root, FILE),
    `# Third-party notices\n\n${words}\n\n${entries.join("\n")}\n\n## Licence texts\n\n${licences.join("\n\n")}\n`,
  );
}

if (process.argv[1] === fileURLToPath(import.meta.url)) main();
