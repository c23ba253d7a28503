// The floor itself in the inspector: size and edge with its ready start, surface and light, the picture of a mat.
import { type Field, findStart, RANGES, reflectanceOf } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import { Quantity } from "../../shared/quantity/Quantity.js";
import { Choice, COLOURS, likeWords } from "./Choice.js";
import { useField } from "./state.js";
import { changeField, missionHere, setStartNumber, showPanel } from "./store.js";

export function Floor() {
  const part = useField((state) => state.floorPart);
  if (part === "surface") return <Surface />;
  if (part === "picture") return <Picture />;
  return <SizeAndEdge />;
}

function SizeAndEdge() {
  const field = useField((state) => state.field);
  const { size } = field;
  const ready = field.made ? findStart(field.made.start) : null;
  const put = (label: string, change: Partial<Field["size"]>) =>
    changeField(label, (now) => ({ ...now, size: { ...now.size, ...change } }));
  return (
    <>
      <h2>Size and edge</h2>
      <Quantity
        label="Width"
        unit="cm"
        value={size.widthM}
        {...RANGES.field}
        onChange={(widthM) => put("width of the floor", { widthM })}
      />
      <Quantity
        label="Depth"
        unit="cm"
        value={size.heightM}
        {...RANGES.field}
        onChange={(heightM) => put("depth of the floor", { heightM })}
      />
      <Quantity
        label="Round corners, radius"
        unit="mm"
        value={size.cornerRadiusM}
        least={0}
        most={25}
        onChange={(cornerRadiusM) => put("corners of the floor", { cornerRadiusM })}
      />
      <Choice
        label="Edge"
        value={field.edge}
        options={[
          ["rim", "a rim that stops robots"],
          ["open", "open, the floor goes on"],
        ]}
        onChange={(edge) => changeField("edge of the floor", (now) => ({ ...now, edge: edge as Field["edge"] }))}
      />
      {ready && field.made && (
        <div className="means">
          <h3>{ready.title}</h3>
          <p className="quiet">{ready.about} It is made anew with each number, until you draw on it.</p>
          {ready.numbers.map(({ key, label, unit, least, most }) => (
            <Quantity
              key={key}
              label={label}
              unit={unit === "m" ? "cm" : unit === "kg" ? "g" : unit === "rad" ? "deg" : unit}
              digits={unit === "" ? 2 : 1}
              value={field.made?.numbers[key] ?? 0}
              least={least}
              most={most}
              onChange={(value) => setStartNumber(key, value)}
            />
          ))}
        </div>
      )}
      <div className="acts">
        <Button variant="outlined" onClick={() => showPanel("fields")}>
          Ready starts and files
        </Button>
        <Button
          variant="outlined"
          onClick={() => void missionHere().then((message) => message !== null && useField.setState({ message }))}
        >
          Write a mission on it
        </Button>
      </div>
    </>
  );
}

function Surface() {
  const { surface, light } = useField((state) => state.field);
  const put = (label: string, change: Partial<Field["surface"]>) =>
    changeField(label, (now) => ({ ...now, surface: { ...now.surface, ...change } }));
  const lit = (label: string, change: Field["light"]) => changeField(label, (now) => ({ ...now, light: change }));
  const level = light?.level ?? 1;
  const lamp = light?.lamp;
  const moveLamp = (change: Partial<NonNullable<typeof lamp>>) =>
    lamp && lit("the lamp", { level, lamp: { ...lamp, ...change } });
  return (
    <>
      <h2>Surface and light</h2>
      <Quantity
        label="Grip"
        hint="1 as the tyres are stated for"
        unit=""
        digits={2}
        value={surface.grip}
        {...RANGES.friction}
        onChange={(grip) => put("grip of the floor", { grip })}
      />
      <Quantity
        label="Unevenness"
        hint="0 like glass, 1 a table, 3 rough boards"
        unit=""
        digits={1}
        value={surface.unevenness ?? 1}
        {...RANGES.unevenness}
        onChange={(unevenness) => put("unevenness of the floor", { unevenness })}
      />
      <Quantity
        label="Light it sends back"
        unit="%"
        digits={0}
        value={surface.reflectance}
        least={0}
        most={1}
        onChange={(reflectance) => put("light of the floor", { reflectance })}
      />
      <Choice
        label="Colour"
        value={surface.colour}
        options={[
          ["#EDE6D6", "paper"],
          ...COLOURS,
          ...(COLOURS.some(([hex]) => hex === surface.colour) || surface.colour === "#EDE6D6"
            ? []
            : ([[surface.colour, likeWords(surface.colour)]] as const)),
        ]}
        onChange={(colour) => put("colour of the floor", { colour, reflectance: reflectanceOf(colour) })}
      />
      <Quantity
        label="Light of the room"
        hint="1 as sensors are stated for"
        unit=""
        digits={2}
        value={level}
        least={0}
        most={4}
        onChange={(next) => lit("light of the room", { ...light, level: next })}
      />
      <FormControlLabel
        control={
          <Checkbox
            size="small"
            checked={lamp !== undefined}
            onChange={(_, on) =>
              lit("the lamp", on ? { level, lamp: { xM: 0, yM: 0, heightM: 1, level: 3 } } : { level })
            }
          />
        }
        label="A lamp that casts shadows"
      />
      {lamp && (
        <>
          <Quantity
            label="Lamp along"
            unit="cm"
            value={lamp.xM}
            {...RANGES.place}
            onChange={(xM) => moveLamp({ xM })}
          />
          <Quantity label="Lamp up" unit="cm" value={lamp.yM} {...RANGES.place} onChange={(yM) => moveLamp({ yM })} />
          <Quantity
            label="Lamp height"
            unit="cm"
            value={lamp.heightM}
            {...RANGES.height}
            onChange={(heightM) => moveLamp({ heightM })}
          />
          <Quantity
            label="Light right below it"
            hint="added to that of the room"
            unit=""
            digits={2}
            value={lamp.level}
            least={0}
            most={20}
            onChange={(next) => moveLamp({ level: next })}
          />
        </>
      )}
    </>
  );
}

function Picture() {
  const picture = useField((state) => state.field.picture);
  return (
    <>
      <h2>Picture of the mat</h2>
      {picture ? (
        <>
          <p>
            The floor shows a picture of {picture.columns} × {picture.rows} cells of 2 mm. Sensors see its light and
            colours. Marks and things are drawn on top.
          </p>
          {!picture.png && <p className="note warning">The picture is not at hand. Reload the page.</p>}
          <div className="acts">
            <Button
              variant="outlined"
              onClick={() => changeField("taking the picture away", ({ picture: _, ...rest }) => rest as Field)}
            >
              Take it away
            </Button>
          </div>
        </>
      ) : (
        <p>Photograph your mat from above. Four corners make it straight, and it becomes the floor.</p>
      )}
      <div className="acts">
        <Button variant="contained" onClick={() => showPanel("fields")}>
          Read a picture
        </Button>
      </div>
    </>
  );
}
