// What takes how much room, and old rehearsals to delete after asking.
import Alert from "@mui/material/Alert";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import Table from "@mui/material/Table";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableRow from "@mui/material/TableRow";
import { useCallback, useEffect, useState } from "react";
import { api, type RoomView } from "../../shared/api.js";
import { Pick } from "../../shared/controls.js";

function bytesWords(bytes: number): string {
  return bytes >= 1e6 ? `${(bytes / 1e6).toFixed(1)} MB` : `${(bytes / 1e3).toFixed(0)} kB`;
}

const AGES = [0, 7, 30, 90, 365] as const;

export function RoomDialog({ close }: { close: () => void }) {
  const [olderThan, setOlderThan] = useState(30);
  const [found, setFound] = useState<RoomView | null>(null);
  const [asked, setAsked] = useState(false);
  const [words, setWords] = useState<string | null>(null);
  const look = useCallback(async () => {
    const answer = await api.room(olderThan);
    if (answer.ok) setFound(answer.value);
    else setWords(answer.message);
  }, [olderThan]);
  useEffect(() => void look(), [look]);
  const thin = async () => {
    const answer = await api.thin(olderThan);
    setWords(answer.ok ? `${answer.value.deleted} rehearsals were deleted.` : answer.message);
    setAsked(false);
    await look();
  };
  const room = found?.room;
  const rows = room
    ? [
        [`${room.documents} documents, ${room.versions} versions`, room.versionBytes],
        [`${room.trials} runs`, room.trialBytes],
        [`${room.studies} studies`, room.studyBytes],
        [`${room.pictures} pictures`, room.pictureBytes],
      ]
    : [];
  return (
    <Dialog open onClose={close} aria-labelledby="room">
      <DialogTitle id="room">Room</DialogTitle>
      <DialogContent>
        <Table className="roomtable">
          <TableBody>
            {rows.map(([what, bytes]) => (
              <TableRow key={what}>
                <TableCell>{what}</TableCell>
                <TableCell className="mono">{bytesWords(Number(bytes))}</TableCell>
              </TableRow>
            ))}
          </TableBody>
        </Table>
        <p>
          <label>
            Rehearsals older than{" "}
            <Pick
              aria-label="Age of rehearsals"
              value={olderThan}
              onChange={(event) => {
                setOlderThan(Number(event.target.value));
                setAsked(false);
              }}
            >
              {AGES.map((age) => (
                <option key={age} value={age}>
                  {age === 0 ? "now" : `${age} days`}
                </option>
              ))}
            </Pick>
          </label>
          : {found?.old ?? "…"}. Runs of a robot, and runs with a note, a tag or a measured place, stay.
        </p>
        {asked && (
          <Alert severity="warning">
            {found?.old} rehearsals will be deleted for good.{" "}
            <Button color="error" variant="contained" onClick={() => void thin()}>
              Delete them
            </Button>
          </Alert>
        )}
        {words && <Alert severity="info">{words}</Alert>}
      </DialogContent>
      <DialogActions>
        <Button disabled={!found || found.old === 0 || asked} onClick={() => setAsked(true)}>
          Delete old rehearsals…
        </Button>
        <Button variant="contained" onClick={close} autoFocus>
          Close
        </Button>
      </DialogActions>
    </Dialog>
  );
}
