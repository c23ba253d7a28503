// Prints every sentence a person can meet, with its number of words and where it stands:
//   npm run sentences                 all of them, longest first
//   npm run sentences -- --over 20    only those with more words
//   npm run sentences -- --find WORD  only those with this word
import { readdirSync, readFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { parseArgs } from "node:util";
import ts from "typescript";

const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));
const SOURCES = ["core/src", "device/src", "cli/src", "web/src"];
/** Talk with the database, not with a person. */
const NOT_READ = /server\/repositories/;
/** Attributes that are not read by anybody. */
const SILENT = new Set(["className", "href", "d", "transform", "viewBox", "id", "style", "src", "gridArea", "points"]);

/** @param {string} folder @returns {string[]} */
function filesIn(folder) {
  return readdirSync(folder, { withFileTypes: true }).flatMap((entry) => {
    const whole = path.join(folder, entry.name);
    if (entry.isDirectory()) return filesIn(whole);
    return /\.(tsx?|astro)$/.test(entry.name) ? [whole] : [];
  });
}

/** A text that is read: two words or more, and not a piece of code. @param {string} text */
function isRead(text) {
  const plain = text.replaceAll("…", "").trim();
  if (!/[A-Za-z]{2,}[,:;]? +[A-Za-z{]/.test(plain)) return false;
  if (/^(SELECT|INSERT|UPDATE|DELETE|WITH|CREATE|ALTER) /i.test(plain)) return false;
  // Programs the calibration runs, in Cairn.
  if (/\b(wait|limit) [\d.]+ s\b/.test(plain) && /header\(|\bnote \w+ =/.test(plain)) return false;
  return !/^[a-z-]+( [a-z-]+)*$/.test(plain) || /^[a-z]+ [a-z]+ [a-z]+/.test(plain);
}

/** @param {ts.TemplateExpression} node */
function templateText(node) {
  return (
    node.head.text +
    node.templateSpans
      .map((span) => `{${span.expression.getText().length > 24 ? "…" : span.expression.getText()}}${span.literal.text}`)
      .join("")
  );
}

/** @param {string} file @returns {{text: string, line: number}[]} */
function textsOf(file) {
  const source = ts.createSourceFile(
    file,
    readFileSync(file, "utf8"),
    ts.ScriptTarget.Latest,
    true,
    file.endsWith(".ts") ? ts.ScriptKind.TS : ts.ScriptKind.TSX,
  );
  /** @type {{text: string, line: number}[]} */
  const found = [];
  /** @param {ts.Node} node @param {string} text */
  const take = (node, text) => {
    const plain = text.replace(/\s+/g, " ").trim();
    if (isRead(plain)) found.push({ text: plain, line: source.getLineAndCharacterOfPosition(node.getStart()).line + 1 });
  };
  /** @param {ts.Node} node */
  const visit = (node) => {
    if (ts.isImportDeclaration(node) || ts.isExportDeclaration(node)) return;
    if (ts.isJsxAttribute(node) && SILENT.has(node.name.getText())) return;
    if (ts.isCallExpression(node) && /\b(query|z\.\w+|RegExp|classList)\b/.test(node.expression.getText())) {
      for (const argument of node.arguments) if (!ts.isStringLiteralLike(argument)) visit(argument);
      return;
    }
    if (ts.isJsxElement(node)) {
      // Words with fields between them are one sentence.
      let words = "";
      for (const child of node.children) {
        if (ts.isJsxText(child)) words += child.text;
        else if (ts.isJsxExpression(child))
          words += child.expression && ts.isStringLiteralLike(child.expression) ? child.expression.text : child.expression ? " {…} " : "";
        else words += " {…} ";
      }
      if (node.children.some((child) => ts.isJsxText(child) && child.text.trim() !== "")) take(node, words);
    } else if (ts.isStringLiteral(node) || ts.isNoSubstitutionTemplateLiteral(node)) take(node, node.text);
    else if (ts.isTemplateExpression(node)) take(node, templateText(node));
    ts.forEachChild(node, visit);
  };
  visit(source);
  return found;
}

/** The longest sentence of a text, in words. @param {string} text */
function longest(text) {
  return Math.max(...text.split(/(?<=[.!?:;])\s+/).map((sentence) => sentence.split(/\s+/).filter((word) => /\w|…/.test(word)).length));
}

const { values } = parseArgs({ options: { over: { type: "string" }, find: { type: "string" } } });
const over = Number(values.over ?? 0);
const rows = SOURCES.flatMap((folder) => filesIn(path.join(root, folder))).flatMap((file) =>
  NOT_READ.test(file)
    ? []
    : textsOf(file).map(({ text, line }) => ({ words: longest(text), text, at: `${path.relative(root, file)}:${line}` })),
);
const wanted = rows
  .filter(({ words, text }) => words > over && (!values.find || text.toLowerCase().includes(values.find.toLowerCase())))
  .sort((a, b) => b.words - a.words);
for (const { words, text, at } of wanted) console.log(`${String(words).padStart(3)}  ${text}   (${at})`);
console.log(`${wanted.length} of ${rows.length} texts`);
