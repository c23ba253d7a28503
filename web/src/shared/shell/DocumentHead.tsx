// The name of the open document, its version, and the way to its others.
import Button from "@mui/material/Button";
import InputBase from "@mui/material/InputBase";
import { useEffect, useState } from "react";

export function DocumentHead(props: {
  word: string;
  title: string;
  name: string;
  revision: number;
  onName: (name: string) => void;
  onRevisions: () => void;
  others: string;
  onOthers: () => void;
}) {
  const [typed, setTyped] = useState(props.name);
  useEffect(() => setTyped(props.name), [props.name]);
  const commit = () => {
    const next = typed.trim();
    if (next === "" || next.length > 40) return setTyped(props.name);
    if (next !== props.name) props.onName(next);
  };
  return (
    <div className="robothead">
      <h1 className="sr">
        {props.title} {props.name}
      </h1>
      <InputBase
        className="robotnamefield"
        inputProps={{ className: "robotname", "aria-label": `Name of the ${props.word}`, maxLength: 40 }}
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => event.key === "Enter" && (event.target as HTMLElement).blur()}
      />
      <span className="robotheadacts">
        <Button
          className="revbadge mono"
          variant="outlined"
          onClick={props.onRevisions}
          title="Versions: name, compare, restore"
        >
          version {props.revision}
        </Button>
        <Button
          className="revbadge"
          variant="outlined"
          onClick={props.onOthers}
          title={`Other ${props.others.toLowerCase()}, new ones, files`}
        >
          {props.others}
        </Button>
      </span>
    </div>
  );
}
