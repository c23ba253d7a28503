// A page of the notebook: its pieces, each with where it comes from.
import "./paper.css";
import { type PageBlock, type PageSource, svgAddress } from "@giddy-pebble/core";
import Table from "@mui/material/Table";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import { useMemo } from "react";
import { markdownHtml } from "./markdown.js";

function From({ from }: { from: PageSource | null }) {
  return from ? (
    <a className="from" href={from.href}>
      {from.words}
    </a>
  ) : null;
}

export function PageView({ blocks }: { blocks: readonly PageBlock[] }) {
  return blocks.map((block, i) => (
    // biome-ignore lint/suspicious/noArrayIndexKey: a piece is its place on the page
    <BlockView key={i} block={block} />
  ));
}

function BlockView({ block }: { block: PageBlock }) {
  switch (block.kind) {
    case "heading":
      return <h3>{block.text}</h3>;
    case "text":
      return (
        <p>
          {block.text} <From from={block.from} />
        </p>
      );
    case "list":
      return (
        <ul>
          {block.items.map((item, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: an item is its place in the list
            <li key={i}>
              {item.text} <From from={item.from} />
            </li>
          ))}
        </ul>
      );
    case "table":
      return <Cells block={block} />;
    case "drawing":
      return (
        <figure>
          <img src={svgAddress(block.svg)} alt={block.caption} />
          <figcaption>
            {block.caption}. <From from={block.from} />
          </figcaption>
        </figure>
      );
    case "markdown":
      return <Markdown text={block.text} />;
    case "photo":
      return (
        <figure>
          <img src={`/api/assets/${block.asset}`} alt={block.caption} />
          <figcaption>{block.caption}</figcaption>
        </figure>
      );
  }
}

/** Words that lead to what their row is about, where there is such a place. */
function Led({ href, words }: { href: string | null | undefined; words: string }) {
  return href ? <a href={href}>{words}</a> : words;
}

function Cells({ block }: { block: Extract<PageBlock, { kind: "table" }> }) {
  return (
    <>
      <Table className="papertable">
        <TableHead>
          <TableRow>
            {block.head.map((cell) => (
              <TableCell key={cell}>{cell}</TableCell>
            ))}
          </TableRow>
        </TableHead>
        <TableBody>
          {block.rows.map((row, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a row is its place in the table
            <TableRow key={i}>
              {row.map((cell, k) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: a cell is its place in the row
                <TableCell key={k}>{k === 0 ? <Led href={block.hrefs[i]} words={cell} /> : cell}</TableCell>
              ))}
            </TableRow>
          ))}
        </TableBody>
      </Table>
      <p>
        <From from={block.from} />
      </p>
    </>
  );
}

function Markdown({ text }: { text: string }) {
  const html = useMemo(() => markdownHtml(text), [text]);
  // biome-ignore lint/security/noDangerouslySetInnerHtml: made by markdown-it without a person's own HTML, see markdown.ts
  return <div className="papermarkdown" dangerouslySetInnerHTML={{ __html: html }} />;
}
