// Ctrl+K: one field that finds documents, acts, help and words.
import Autocomplete from "@mui/material/Autocomplete";
import Dialog from "@mui/material/Dialog";
import TextField from "@mui/material/TextField";
import { useEffect, useMemo, useState } from "react";
import { api, type ListedDocument } from "../api.js";
import { go } from "../going.js";
import { linkTo } from "../place.js";
import { everything, type Found, find } from "./finding.js";

function goTo({ href }: Found): void {
  go(href.startsWith("/api/") || href.includes("#") ? href : linkTo(href));
}

export function Palette({ close }: { close: () => void }) {
  const [documents, setDocuments] = useState<readonly ListedDocument[]>([]);
  const [typed, setTyped] = useState("");
  useEffect(() => {
    let here = true;
    void api.documents().then((found) => here && found.ok && setDocuments(found.value.documents));
    return () => {
      here = false;
    };
  }, []);
  const all = useMemo(() => everything(documents), [documents]);
  const shown = useMemo(() => find(all, typed), [all, typed]);
  return (
    <Dialog
      open
      onClose={close}
      className="palette"
      slotProps={{ paper: { className: "palettepaper", "aria-label": "Search everything" } as object }}
    >
      <Autocomplete
        open
        autoHighlight
        disableClearable
        disablePortal
        forcePopupIcon={false}
        options={shown}
        filterOptions={(options) => [...options]}
        groupBy={({ group }) => group}
        getOptionLabel={({ title }) => title}
        getOptionKey={({ group, href, title }) => `${group} ${href} ${title}`}
        inputValue={typed}
        onInputChange={(_, value, reason) => reason === "input" && setTyped(value)}
        onChange={(_, found) => goTo(found)}
        onClose={(_, reason) => reason === "escape" && close()}
        noOptionsText={`Nothing fits “${typed}”. Try fewer letters, or another word for it.`}
        renderGroup={({ key, group, children }) => (
          // biome-ignore lint/a11y/useSemanticElements: a group within a list of choices, not of fields
          <div key={key} role="group" aria-label={group}>
            <div className="palettegroup quiet" aria-hidden="true">
              {group}
            </div>
            {children}
          </div>
        )}
        renderOption={({ key, ...props }, { title, about }) => (
          <li key={key} {...props}>
            <span className="palettetitle">{title}</span>
            <span className="quiet">{about}</span>
          </li>
        )}
        renderInput={(params) => (
          <TextField
            {...params}
            autoFocus
            size="small"
            placeholder="Search documents, acts, help and words"
            slotProps={{
              ...params.slotProps,
              htmlInput: { ...params.slotProps.htmlInput, "aria-label": "Search for" },
            }}
          />
        )}
        slotProps={{
          listbox: { "aria-label": "Found" },
          popper: {
            className: "palettelist",
            placement: "bottom-start",
            modifiers: [{ name: "flip", enabled: false }],
          },
        }}
      />
    </Dialog>
  );
}
