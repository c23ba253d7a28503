// Pages as Markdown and as HTML that stands alone. Own text is Markdown already; making HTML of it is the caller's.
import { escapeHtml } from "../words/escape.js";
import type { PageBlock, PageSource } from "./schema.js";

/** A page with everything on it. */
export interface WholePage {
  readonly id: string;
  readonly title: string;
  readonly blocks: readonly PageBlock[];
  /** When it was frozen, ISO 8601. */
  readonly frozenAt: string | null;
}

/** What a page needs from outside. */
interface Outside {
  /** Address of the application, for links: "http://127.0.0.1:4620". */
  readonly site: string;
  /** HTML of a person's Markdown, safe to be shown. */
  markdown(text: string): string;
  /** Where a photograph is: a data address, or a file beside the page. */
  photo(asset: string): string;
}

const link = (from: PageSource | null, site: string) =>
  from ? ` <a class="from" href="${escapeHtml(site + from.href)}">${escapeHtml(from.words)}</a>` : "";

function blockHtml(block: PageBlock, outside: Outside): string {
  const { site } = outside;
  switch (block.kind) {
    case "heading":
      return `<h3>${escapeHtml(block.text)}</h3>`;
    case "text":
      return `<p>${escapeHtml(block.text)}${link(block.from, site)}</p>`;
    case "list":
      return `<ul>${block.items.map((item) => `<li>${escapeHtml(item.text)}${link(item.from, site)}</li>`).join("")}</ul>`;
    case "table": {
      const cells = (row: readonly string[], tag: string, href: string | null = null) =>
        `<tr>${row
          .map((cell, i) => {
            const words = escapeHtml(cell).replaceAll("\n", "<br>");
            return `<${tag}>${href !== null && i === 0 ? `<a href="${escapeHtml(site + href)}">${words}</a>` : words}</${tag}>`;
          })
          .join("")}</tr>`;
      const body = block.rows.map((row, i) => cells(row, "td", block.hrefs[i])).join("");
      return `<table><thead>${cells(block.head, "th")}</thead><tbody>${body}</tbody></table><p class="source">${link(block.from, site)}</p>`;
    }
    case "drawing":
      return `<figure><img alt="${escapeHtml(block.caption)}" src="${svgAddress(block.svg)}"><figcaption>${escapeHtml(block.caption)}.${link(block.from, site)}</figcaption></figure>`;
    case "markdown":
      return outside.markdown(block.text);
    case "photo":
      return `<figure><img alt="${escapeHtml(block.caption)}" src="${escapeHtml(outside.photo(block.asset))}"><figcaption>${escapeHtml(block.caption)}</figcaption></figure>`;
  }
}

/** SVG text as an address of its own. */
export function svgAddress(svg: string): string {
  return `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg)}`;
}

const STYLE = `body{font:15px/1.5 system-ui,sans-serif;color:#1E2B33;max-width:780px;margin:0 auto;padding:24px}
h1{font-size:26px}h2{font-size:20px;border-bottom:2px solid #0E6A6B;padding-bottom:4px}h3{font-size:15px;margin:18px 0 4px}
section{break-before:page}table{border-collapse:collapse;width:100%;font-size:13px}th,td{text-align:left;vertical-align:top;padding:3px 10px 3px 0;border-bottom:1px solid #DDD6C8;overflow-wrap:anywhere}
th{overflow-wrap:normal}tr,figure,pre{break-inside:avoid}thead{display:table-header-group}figure{margin:12px 0}img{max-width:100%;max-height:420px}figcaption,.source,.from,.frozen{font-size:12px;color:#5B6A73}
pre{background:#F4F1EA;padding:10px;white-space:pre-wrap;font-size:12px}nav a{display:block}
@page{margin:18mm 16mm;@bottom-center{content:counter(page) " of " counter(pages);font-size:10px}}`;

/** One HTML file that needs nothing beside it, when photographs are data addresses. */
export function notebookHtml(name: string, pages: readonly WholePage[], outside: Outside): string {
  const contents = pages.map(({ id, title }) => `<a href="#${escapeHtml(id)}">${escapeHtml(title)}</a>`).join("");
  const bodies = pages.map(
    ({ id, title, blocks, frozenAt }) =>
      `<section id="${escapeHtml(id)}"><h2>${escapeHtml(title)}</h2>${frozenAt ? `<p class="frozen">As it was on ${frozenAt.slice(0, 10)}</p>` : ""}${blocks.map((block) => blockHtml(block, outside)).join("\n")}</section>`,
  );
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><meta http-equiv="Content-Security-Policy" content="default-src 'none'; img-src data:; style-src 'unsafe-inline'"><title>${escapeHtml(name)}</title><style>${STYLE}</style></head>
<body><h1>${escapeHtml(name)}</h1><nav>${contents}</nav>
${bodies.join("\n")}
</body></html>
`;
}

/** Plain words as Markdown that says the same: nothing in them is a mark. */
function plainMarkdown(text: string): string {
  return text.replaceAll(/([\\`*_[\]<>#])/g, "\\$1");
}

const cell = (text: string) => plainMarkdown(text).replaceAll("|", "\\|").replaceAll("\n", " ");

interface MarkdownFile {
  readonly name: string;
  readonly text: string;
}

function blockMarkdown(
  block: PageBlock,
  page: string,
  drawings: MarkdownFile[],
  photo: (asset: string) => string,
): string {
  switch (block.kind) {
    case "heading":
      return `### ${plainMarkdown(block.text)}`;
    case "text":
      return plainMarkdown(block.text);
    case "list":
      return block.items.map((item) => `- ${plainMarkdown(item.text)}`).join("\n");
    case "table":
      return [block.head, block.head.map(() => "---"), ...block.rows]
        .map((row) => `| ${row.map(cell).join(" | ")} |`)
        .join("\n");
    case "drawing": {
      const file = `pictures/${page}-${drawings.length + 1}.svg`;
      drawings.push({ name: file, text: block.svg });
      return `![${plainMarkdown(block.caption)}](${file})`;
    }
    case "markdown":
      return block.text;
    case "photo":
      return `![${plainMarkdown(block.caption)}](${photo(block.asset)})`;
  }
}

/** The notebook as one Markdown file with its drawings beside it. */
export function notebookMarkdown(
  name: string,
  pages: readonly WholePage[],
  photo: (asset: string) => string,
): MarkdownFile[] {
  const drawings: MarkdownFile[] = [];
  const body = pages.map(({ id, title, blocks }) => {
    const parts = blocks.map((block) => blockMarkdown(block, id, drawings, photo));
    return [`## ${plainMarkdown(title)}`, ...parts].join("\n\n");
  });
  return [{ name: "notebook.md", text: `# ${plainMarkdown(name)}\n\n${body.join("\n\n")}\n` }, ...drawings];
}
