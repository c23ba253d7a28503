// What can be put into a notebook: own pages, a match sheet, a pit list, and pages that make themselves.
import Button from "@mui/material/Button";
import { Panel } from "../../shared/Panel.js";
import { USUAL_LINES } from "./PitList.js";
import { everyPage, titleOf, useNotebook } from "./state.js";
import { addPage } from "./store.js";

const close = () => useNotebook.setState({ panel: "none" });

/** Pages that are not in the notebook yet, and a page of one's own. */
export function AddPage() {
  const pages = useNotebook((state) => state.notebook.pages);
  const project = useNotebook((state) => state.project);
  const has = new Set(pages.map((page) => (page.kind === "made" ? `${page.of}/${page.name}` : "")));
  const free = everyPage(project).filter((page) => page.kind === "made" && !has.has(`${page.of}/${page.name}`));
  return (
    <Panel title="Add a page" label="Add a page" close={close}>
      <Button
        variant="contained"
        onClick={() => {
          close();
          addPage({ kind: "own", id: "", title: "", text: "", photos: [] });
        }}
      >
        A page of your own
      </Button>{" "}
      <Button
        variant="outlined"
        onClick={() => {
          close();
          addPage({
            kind: "match",
            id: "",
            title: "Match sheet",
            roundS: 150,
            resetS: 5,
            changeS: 8,
            entries: [],
            rounds: [],
          });
        }}
      >
        A match sheet
      </Button>{" "}
      <Button
        variant="outlined"
        onClick={() => {
          close();
          addPage({
            kind: "pit",
            id: "",
            title: "Pit list",
            lines: USUAL_LINES.map((text) => ({ text, done: false })),
          });
        }}
      >
        A pit list
      </Button>
      <h3>Pages that make themselves</h3>
      {free.length === 0 && <p className="quiet">All of them are in the notebook.</p>}
      <ul className="addlist">
        {free.map((page) => (
          <li key={page.id}>
            <Button
              onClick={() => {
                close();
                addPage(page);
              }}
            >
              {titleOf(page)}
            </Button>
          </li>
        ))}
      </ul>
    </Panel>
  );
}
