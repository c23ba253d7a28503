// A picture of a mat: its four corners put on the picture, its size, what is white and what is black.
import { type Point, RANGES } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import { type KeyboardEvent, type PointerEvent, useEffect, useRef, useState } from "react";
import { Panel } from "../../shared/Panel.js";
import { Quantity } from "../../shared/quantity/Quantity.js";
import { layMat, type Mat, type Straightening } from "./files.js";
import { useField } from "./state.js";
import { showPanel } from "./store.js";

const CORNER_NAMES = ["lower left", "lower right", "upper right", "upper left"] as const;
/** The picture is shown as wide as this, px. */
const SHOWN_PX = 440;
type Pick = "corners" | "white" | "black";

function close(): void {
  useField.setState({ file: null });
  showPanel("none");
}

export function MatPanel() {
  const image = useField((state) => state.file?.image ?? null);
  const name = useField((state) => state.file?.name ?? "");
  if (!image) return null;
  return (
    <Panel title="A picture of a mat" label="A picture of a mat" close={close}>
      <MatForm key={name} image={image} />
    </Panel>
  );
}

function MatForm({ image }: { image: ImageBitmap }) {
  const size = useField((state) => state.field.size);
  const { width: w, height: h } = image;
  const [mat, setMat] = useState<Mat>({
    corners: [
      [w * 0.04, h * 0.96],
      [w * 0.96, h * 0.96],
      [w * 0.96, h * 0.04],
      [w * 0.04, h * 0.04],
    ],
    widthM: size.widthM,
    heightM: size.heightM,
    white: null,
    black: null,
  });
  const [pick, setPick] = useState<Pick>("corners");
  const [share, setShare] = useState<number | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const running = useRef<Straightening | null>(null);
  useEffect(() => () => running.current?.cancel(), []);
  const start = () => {
    setTrouble(null);
    setShare(0);
    running.current = layMat(image, mat, setShare);
    void running.current.done.then((failed) => {
      running.current = null;
      setShare(null);
      if (failed === null) close();
      else setTrouble(failed);
    });
  };
  return (
    <>
      <p>Drag the four rings onto the corners of the mat. Then say how large it is.</p>
      <Corners image={image} mat={mat} pick={pick} onMat={setMat} />
      <ToggleButtonGroup
        exclusive
        size="small"
        value={pick}
        aria-label="What a press on the picture says"
        onChange={(_, next: Pick | null) => next && setPick(next)}
      >
        <ToggleButton value="corners">Corners</ToggleButton>
        <ToggleButton value="white">This is white</ToggleButton>
        <ToggleButton value="black">This is black</ToggleButton>
      </ToggleButtonGroup>
      <Quantity
        label="Width of the mat"
        unit="cm"
        value={mat.widthM}
        {...RANGES.field}
        most={5}
        onChange={(widthM) => setMat({ ...mat, widthM })}
      />
      <Quantity
        label="Depth of the mat"
        unit="cm"
        value={mat.heightM}
        {...RANGES.field}
        most={5}
        onChange={(heightM) => setMat({ ...mat, heightM })}
      />
      <p className="quiet small">
        {mat.white ? "White is set." : "White is as the picture has it."}{" "}
        {mat.black ? "Black is set." : "Black is as the picture has it."}
      </p>
      {trouble && (
        <p className="note error" role="alert">
          {trouble}
        </p>
      )}
      {share === null ? (
        <div className="acts">
          <Button variant="contained" onClick={start}>
            Lay it as the floor
          </Button>
        </div>
      ) : (
        <div className="progress">
          <LinearProgress
            variant="determinate"
            value={share * 100}
            aria-label="Straightening the picture"
            className="bar"
          />
          <span className="mono">{Math.round(share * 100)} %</span>
          <Button variant="outlined" onClick={() => running.current?.cancel()}>
            Cancel
          </Button>
        </div>
      )}
    </>
  );
}

function Corners(props: { image: ImageBitmap; mat: Mat; pick: Pick; onMat: (mat: Mat) => void }) {
  const { image, mat, pick, onMat } = props;
  const canvas = useRef<HTMLCanvasElement>(null);
  const held = useRef<number | null>(null);
  const scale = Math.min(1, SHOWN_PX / image.width);
  const [width, height] = [Math.round(image.width * scale), Math.round(image.height * scale)];
  useEffect(() => {
    canvas.current?.getContext("2d")?.drawImage(image, 0, 0, width, height);
  }, [image, width, height]);
  const place = (event: PointerEvent<SVGSVGElement>): Point => {
    const box = event.currentTarget.getBoundingClientRect();
    return [
      ((event.clientX - box.left) / box.width) * image.width,
      ((event.clientY - box.top) / box.height) * image.height,
    ];
  };
  const move = (index: number, to: Point) =>
    onMat({ ...mat, corners: mat.corners.map((corner, i) => (i === index ? to : corner)) });
  const keys = (index: number) => (event: KeyboardEvent) => {
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    const corner = mat.corners[index];
    if (!by || !corner) return;
    event.preventDefault();
    event.stopPropagation();
    const far = event.shiftKey ? 20 : 1;
    move(index, [corner[0] + (by[0] ?? 0) * far, corner[1] + (by[1] ?? 0) * far]);
  };
  const polygon = mat.corners.map(([x, y]) => `${x * scale},${y * scale}`).join(" ");
  return (
    <div className="matpicture">
      <canvas ref={canvas} width={width} height={height} />
      {/* biome-ignore lint/a11y/useSemanticElements: a drawing with handles is no fieldset */}
      <svg
        viewBox={`0 0 ${width} ${height}`}
        role="group"
        aria-label="The picture with the mat's four corners"
        onPointerDown={(event) => {
          const at = place(event);
          if (pick !== "corners") return onMat({ ...mat, [pick]: at });
          const near = mat.corners
            .map(([x, y], i) => ({ i, far: Math.hypot(x - at[0], y - at[1]) * scale }))
            .sort((a, b) => a.far - b.far)[0];
          held.current = near && near.far < 40 ? near.i : null;
          if (held.current !== null) event.currentTarget.setPointerCapture(event.pointerId);
        }}
        onPointerMove={(event) => held.current !== null && move(held.current, place(event))}
        onPointerUp={() => {
          held.current = null;
        }}
      >
        <polygon points={polygon} className="matoutline" />
        {mat.corners.map(([x, y], i) => (
          // biome-ignore lint/a11y/useSemanticElements: a ring on a drawing is no button element
          <circle
            key={CORNER_NAMES[i]}
            cx={x * scale}
            cy={y * scale}
            r="9"
            tabIndex={0}
            role="button"
            aria-label={`Corner ${CORNER_NAMES[i]}: arrow keys move it`}
            onKeyDown={keys(i)}
          />
        ))}
        {(
          [
            ["white", mat.white],
            ["black", mat.black],
          ] as const
        ).map(([what, at]) =>
          at ? (
            <rect
              key={what}
              className={`spot ${what}`}
              x={at[0] * scale - 5}
              y={at[1] * scale - 5}
              width="10"
              height="10"
            />
          ) : null,
        )}
      </svg>
    </div>
  );
}
