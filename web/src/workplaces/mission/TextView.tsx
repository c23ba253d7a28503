// The Text view: its editor is read when it is asked for the first time. Most visits look at the steps.
import Button from "@mui/material/Button";
import { type ComponentType, useEffect, useState } from "react";

/** The editor, once it was read in this page. */
let editor: ComponentType | null = null;

export function TextView() {
  const [Editor, setEditor] = useState(() => editor);
  const [asked, setAsked] = useState(1);
  const [failed, setFailed] = useState(0);
  useEffect(() => {
    if (editor) return;
    let here = true;
    import("./TextEditor.js").then(
      ({ TextEditor }) => {
        editor = TextEditor;
        if (here) setEditor(() => TextEditor);
      },
      () => here && setFailed(asked),
    );
    return () => {
      here = false;
    };
  }, [asked]);
  if (Editor) return <Editor />;
  if (failed < asked) return <p className="foot quiet">Opening the text…</p>;
  return (
    <div className="foot">
      <p>The text could not be opened: the server does not answer. What you typed is kept. The steps work as ever.</p>
      <Button variant="outlined" onClick={() => setAsked(asked + 1)}>
        Try again
      </Button>
    </div>
  );
}
