// What is asked about one document: another name, a copy's name, where it is used, whether to delete it for good.
import Alert from "@mui/material/Alert";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import TextField from "@mui/material/TextField";
import { type FormEvent, useState } from "react";
import type { ListedDocument, Uses } from "../../shared/api.js";
import { linkTo } from "../../shared/place.js";
import { duplicate, freeName, type Question, removeForGood, rename, useHome } from "./store.js";

const close = () => useHome.setState({ question: null });

export function Questions() {
  const question = useHome((state) => state.question);
  return (
    <Dialog open={question !== null} onClose={close} aria-labelledby="question">
      {question && <Ask key={`${question.is}${question.document.id}`} question={question} />}
    </Dialog>
  );
}

function Ask({ question }: { question: Question }) {
  const { document } = question;
  if (question.is === "rename")
    return (
      <NameForm
        title={`Rename ${document.name}`}
        begin={document.name}
        act="Rename"
        about="What names it follows: the missions that are for it, on it, or use it."
        take={(name) => rename(document, name)}
      />
    );
  if (question.is === "duplicate")
    return (
      <NameForm
        title={`Duplicate ${document.name}`}
        begin={freeName(document)}
        act="Duplicate"
        about="The copy holds what is on the screen now. Its versions begin anew."
        take={(name) => duplicate(document, name)}
      />
    );
  if (question.is === "uses") return <UsedIn document={document} uses={question.uses} />;
  return <DeleteForGood document={document} uses={question.uses} />;
}

function NameForm(props: {
  title: string;
  begin: string;
  act: string;
  about: string;
  take: (name: string) => Promise<string | null>;
}) {
  const [name, setName] = useState(props.begin);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    setBusy(true);
    const failed = await props.take(name);
    setBusy(false);
    if (failed === null) close();
    else setTrouble(failed);
  };
  return (
    <form onSubmit={(event) => void submit(event)}>
      <DialogTitle id="question">{props.title}</DialogTitle>
      <DialogContent>
        <TextField
          autoFocus
          fullWidth
          size="small"
          label="Name"
          margin="dense"
          value={name}
          onChange={(event) => setName(event.target.value)}
          onFocus={(event) => event.target.select()}
          error={trouble !== null}
          helperText={trouble ?? props.about}
          slotProps={{ htmlInput: { maxLength: 120 } }}
        />
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button type="submit" variant="contained" disabled={busy}>
          {props.act}
        </Button>
      </DialogActions>
    </form>
  );
}

function UsesList({ uses }: { uses: Uses }) {
  const counted = [
    [uses.trials, "run", "runs"],
    [uses.studies, "study of many runs", "studies of many runs"],
    [uses.calibrations, "calibration", "calibrations"],
  ] as const;
  return (
    <ul className="useslist">
      {uses.missions.map(({ id, name }) => (
        <li key={id}>
          Mission <a href={linkTo(`/mission?mission=${id}`)}>{name}</a> names it.
        </li>
      ))}
      {counted.map(([n, one, many]) =>
        n === 0 ? null : (
          <li key={one}>
            {n} {n === 1 ? one : many} {n === 1 ? "was" : "were"} made with it.
          </li>
        ),
      )}
    </ul>
  );
}

function UsedIn({ document, uses }: { document: ListedDocument; uses: Uses }) {
  return (
    <>
      <DialogTitle id="question">Where {document.name} is used</DialogTitle>
      <DialogContent>{uses.words === "" ? <p>Nothing uses it.</p> : <UsesList uses={uses} />}</DialogContent>
      <DialogActions>
        <Button variant="contained" onClick={close} autoFocus>
          Close
        </Button>
      </DialogActions>
    </>
  );
}

function DeleteForGood({ document, uses }: { document: ListedDocument; uses: Uses }) {
  const [trouble, setTrouble] = useState<string | null>(null);
  const remove = async () => {
    const failed = await removeForGood(document);
    if (failed === null) close();
    else setTrouble(failed);
  };
  return (
    <>
      <DialogTitle id="question">Delete {document.name} for good?</DialogTitle>
      <DialogContent>
        <p>This cannot be undone. Archived, it takes little room and can come back.</p>
        {uses.words !== "" && (
          <>
            <UsesList uses={uses} />
            {uses.trials + uses.studies + uses.calibrations > 0 && (
              <Alert severity="warning">Its runs, studies and calibrations are deleted with it.</Alert>
            )}
          </>
        )}
        {trouble && <Alert severity="error">{trouble}</Alert>}
      </DialogContent>
      <DialogActions>
        <Button onClick={close} autoFocus>
          Keep it archived
        </Button>
        <Button variant="contained" color="error" onClick={() => void remove()}>
          Delete for good
        </Button>
      </DialogActions>
    </>
  );
}
