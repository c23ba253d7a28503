// One document on the home page: its picture, its name, what can be done with it.
import IconButton from "@mui/material/IconButton";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { useState } from "react";
import type { ListedDocument } from "../../shared/api.js";
import { askUses, bringBack, KIND_WORDS, type Kind, pageOf, putAway, useHome } from "./store.js";

function when(iso: string): string {
  const date = new Date(iso);
  const today = new Date().toDateString() === date.toDateString();
  const time = date.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
  return today ? `today, ${time}` : `${date.toLocaleDateString("en-GB", { day: "numeric", month: "short" })}, ${time}`;
}

/** "for Drizzle on Fellside" */
function about({ robot, field }: ListedDocument): string {
  return [robot && `for ${robot}`, field && `on ${field}`].filter(Boolean).join(" ");
}

export function Card({ document }: { document: ListedDocument }) {
  const [word] = KIND_WORDS[document.kind as Kind] ?? [document.kind];
  const away = document.archivedAt !== null;
  const drawn = !away && ["robot", "field", "mission"].includes(document.kind);
  const facts = (
    <>
      <span className="cardname">{document.name}</span>
      <span className="quiet cardfacts">
        {word} {about(document)}
        <br />
        version {document.headRevision} ·{" "}
        {away ? `archived ${when(document.archivedAt ?? "")}` : when(document.changedAt)}
      </span>
    </>
  );
  const picture = (
    <span className="cardpicture" data-kind={document.kind} aria-hidden="true">
      {drawn && <img src={`/api/documents/${document.id}/picture`} alt="" loading="lazy" />}
    </span>
  );
  return (
    <li className="card" data-name={document.name}>
      {away ? (
        <span className="cardlink">
          {picture}
          {facts}
        </span>
      ) : (
        <a className="cardlink" href={pageOf(document)}>
          {picture}
          {facts}
        </a>
      )}
      <Acts document={document} away={away} />
    </li>
  );
}

function Acts({ document, away }: { document: ListedDocument; away: boolean }) {
  const [at, setAt] = useState<HTMLElement | null>(null);
  const close = () => setAt(null);
  const ask = (is: "rename" | "duplicate") => useHome.setState({ question: { is, document } });
  const item = (label: string, act: () => void) => (
    <MenuItem
      key={label}
      onClick={() => {
        close();
        act();
      }}
    >
      {label}
    </MenuItem>
  );
  return (
    <>
      <IconButton
        className="cardmore"
        size="small"
        aria-label={`What to do with ${document.name}`}
        aria-haspopup="menu"
        onClick={(event) => setAt(event.currentTarget)}
      >
        ⋯
      </IconButton>
      <Menu open={at !== null} anchorEl={at} onClose={close}>
        {away
          ? [
              item("Bring back", () => void bringBack(document)),
              item("Where it is used", () => void askUses(document, "uses")),
              item("Delete for good…", () => void askUses(document, "delete")),
            ]
          : [
              item("Rename…", () => ask("rename")),
              item("Duplicate…", () => ask("duplicate")),
              item("Where it is used", () => void askUses(document, "uses")),
              item("Save as a file", () => window.location.assign(`/api/documents/${document.id}/file`)),
              item("Archive", () => void putAway(document)),
            ]}
      </Menu>
    </>
  );
}
