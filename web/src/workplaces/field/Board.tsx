// The drawing board: the field on the stage, with its tool, its buttons and the numbers that are typed.
import { useCallback, useRef } from "react";
import { FieldStage, StageButton, type StageHandle } from "../../shared/field/FieldStage.js";
import { BOARD_MARGIN } from "../../shared/field/fieldView.js";
import { onPictures } from "../../shared/field/pictures.js";
import { measureWords } from "../../shared/field/words.js";
import { BoardTool } from "./boardTool.js";
import { drawBoard } from "./drawBoard.js";
import { useField } from "./state.js";
import { TypedNumbers } from "./TypedNumbers.js";

function watch(ask: () => void): () => void {
  const [unsubscribe, forget] = [useField.subscribe(ask), onPictures(ask)];
  return () => {
    unsubscribe();
    forget();
  };
}

export function Board() {
  const stage = useRef<StageHandle | null>(null);
  const tool = useRef<BoardTool | null>(null);
  tool.current ??= new BoardTool();
  const size = useField((state) => state.field.size);
  const open = useField((state) => state.open?.id ?? "");
  const name = useField((state) => state.field.name);
  const take = useCallback((handle: StageHandle | null) => {
    stage.current = handle;
  }, []);
  return (
    <FieldStage
      className="board"
      size={size}
      fitKey={`${open}/${size.widthM}×${size.heightM}`}
      label={`The field ${name} from above, to draw on`}
      draw={(pen, width, height) => drawBoard(pen, useField.getState(), width, height)}
      watch={watch}
      tool={tool.current}
      handle={take}
      margin={BOARD_MARGIN}
    >
      <div className="fieldtools">
        <StageButton label="Zoom in" sign="+" onPress={() => stage.current?.zoom(1.3)} />
        <StageButton label="Zoom out" sign="−" onPress={() => stage.current?.zoom(1 / 1.3)} />
        <GridButton />
        <StageButton label="Show the whole field" sign="⤢" onPress={() => stage.current?.fit()} />
      </div>
      <TypedNumbers />
      <ChosenWords />
    </FieldStage>
  );
}

function GridButton() {
  const gridM = useField((state) => state.gridM);
  return (
    <StageButton
      label={gridM > 0 ? "Snapping to 1 cm" : "No snapping to the grid"}
      shortcut="Alt while dragging: no snapping"
      sign="#"
      pressed={gridM > 0}
      onPress={() => useField.setState({ gridM: gridM > 0 ? 0 : 0.01 })}
    />
  );
}

/** What is chosen or measured, for those who cannot see the board. */
function ChosenWords() {
  const measure = useField((state) => state.measure);
  const tool = useField((state) => state.tool);
  const [from, to] = measure;
  const words =
    tool === "measure"
      ? from && to
        ? measureWords(from, to)
        : "Press two points on the field."
      : tool === "choose"
        ? ""
        : "Press on the field, or type numbers and press Enter. Escape goes back.";
  return (
    <span className="sr" role="status">
      {words}
    </span>
  );
}
