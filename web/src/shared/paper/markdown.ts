// A person's Markdown as HTML that is safe to be shown: no HTML of their own, no pictures from elsewhere, no scripts.
import MarkdownIt from "markdown-it";

const markdown = new MarkdownIt({ html: false, linkify: false, typographer: false });
// Pictures are photographs of the page, never addresses: nothing is fetched from elsewhere.
markdown.renderer.rules.image = (tokens, i) => {
  const words = tokens[i]?.content ?? "";
  return `<em>picture left out${words === "" ? "" : `: ${markdown.utils.escapeHtml(words)}`}</em>`;
};
markdown.renderer.rules.link_open = (tokens, i, options, _env, self) => {
  tokens[i]?.attrSet("rel", "noopener noreferrer");
  return self.renderToken(tokens, i, options);
};
const allowed = markdown.validateLink.bind(markdown);
/** Web pages, mail, and pages of this application. */
markdown.validateLink = (address) => allowed(address) && /^(https?:\/\/|mailto:|\/(?!\/))/i.test(address.trim());

export function markdownHtml(text: string): string {
  return markdown.render(text);
}
