// The sentences a person can meet, read from the source: what they say, and where they stand.
import { readdirSync, readFileSync } from "node:fs";
import path from "node:path";
import ts from "typescript";

/** Each has its own list of sentences. */
export const PACKAGES = ["core", "device", "boards", "cli", "web"];
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

/** Attributes that are read, even where they are one word. */
const LABELS = new Set(["label", "title", "aria-label", "placeholder", "alt", "helperText", "summary"]);

/** A text that is read: two words or more, and not a piece of code. @param {string} text */
function isRead(text) {
  const plain = text.replaceAll("…", "").trim();
  if (!/[A-Za-z]{2,}[,:;]? +[A-Za-z{]/.test(plain)) return false;
  if (/^(SELECT|INSERT|UPDATE|DELETE|WITH|CREATE|ALTER) /i.test(plain)) return false;
  // The style of pages that go out, and drawings.
  if (/\{[a-z-]+:[^}]*\}/.test(plain) || /^<\w/.test(plain)) return false;
  // Programs in Cairn: of the calibration, and examples.
  if (/(^| )(set|note) \w+ = .*\b(set|note|wait|go|beep|move|limit)\b/.test(plain)) return false;
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
  /** @param {ts.Node} node @param {string} text @param {boolean} [label] on the screen, even where it is one word */
  const take = (node, text, label = false) => {
    const plain = text.replace(/\s+/g, " ").trim();
    if (isRead(plain) || (label && /^\p{Lu}?\p{Ll}+…?$/u.test(plain)))
      found.push({ text: plain, line: source.getLineAndCharacterOfPosition(node.getStart()).line + 1 });
  };
  /** @param {ts.Node} node */
  const visit = (node) => {
    if (ts.isImportDeclaration(node) || ts.isExportDeclaration(node)) return;
    if (ts.isJsxAttribute(node) && SILENT.has(node.name.getText())) return;
    // Examples of the reference are programs.
    if (ts.isPropertyAssignment(node) && node.name.getText() === "steps" && !ts.isObjectLiteralExpression(node.initializer)) return;
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
      if (node.children.some((child) => ts.isJsxText(child) && child.text.trim() !== "")) take(node, words, true);
    } else if (ts.isJsxAttribute(node) && LABELS.has(node.name.getText()) && node.initializer && ts.isStringLiteral(node.initializer))
      take(node, node.initializer.text, true);
    else if (ts.isStringLiteral(node) || ts.isNoSubstitutionTemplateLiteral(node)) take(node, node.text);
    else if (ts.isTemplateExpression(node)) take(node, templateText(node));
    ts.forEachChild(node, visit);
  };
  visit(source);
  return found;
}

/** The longest sentence of a text, in words. @param {string} text */
export function longest(text) {
  return Math.max(
    ...text.split(/(?<=[.!?:;](?:\{…\})?)\s+/).map((sentence) => sentence.split(/\s+/).filter((word) => /\w|…/.test(word)).length),
  );
}

/**
 * Every sentence of a package, in order of file and line.
 * @param {string} root of the repository @param {string} name of the package
 * @returns {{text: string, file: string, line: number}[]}
 */
export function sentencesOf(root, name) {
  return filesIn(path.join(root, name, "src"))
    .filter((file) => !NOT_READ.test(file))
    .sort()
    .flatMap((file) => textsOf(file).map(({ text, line }) => ({ text, line, file: path.relative(root, file).replaceAll("\\", "/") })));
}

/** @param {string} text */
function quoted(text) {
  return `"${text.replaceAll("\\", "\\\\").replaceAll('"', '\\"').replaceAll("\n", "\\n").replaceAll("\t", "\\t")}"`;
}

/**
 * A package's sentences as a template of GNU gettext, which translators' programs read: each sentence once, with the
 * files it stands in. What is put in at run time stands in braces.
 * @param {string} name @param {{text: string, file: string}[]} sentences
 */
export function catalogue(name, sentences) {
  /** @type {Map<string, Set<string>>} */
  const places = new Map();
  for (const { text, file } of sentences) {
    let n = 0;
    // What is worked out has no name: it is counted.
    const said = text.replaceAll(/\{[^{}]*\}/g, (name) => {
      if (/^\{[\w.]+\}$/.test(name)) return name;
      n += 1;
      return `{${n}}`;
    });
    places.set(said, (places.get(said) ?? new Set()).add(file));
  }
  const entries = [...places].map(
    ([text, files]) =>
      `${[...files].map((file) => `#: ${file}`).join("\n")}\n${/\{/.test(text) ? "#, brace-format\n" : ""}msgid ${quoted(text)}\nmsgstr ""\n`,
  );
  const head = `# Sentences of the package ${name} of Giddy Pebble. Written by npm run sentences -- --write.
msgid ""
msgstr ""
"Project-Id-Version: giddy-pebble ${name}\\n"
"MIME-Version: 1.0\\n"
"Content-Type: text/plain; charset=UTF-8\\n"
"Content-Transfer-Encoding: 8bit\\n"
"Language: en\\n"
`;
  return `${[head, ...entries].join("\n")}`;
}
