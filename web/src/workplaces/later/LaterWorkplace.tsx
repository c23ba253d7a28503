// A workplace that is not built: one honest sentence, and the way to what is.
import "../../shared/noEval.js";
import { Pebble } from "../../shared/Pebble.js";
import { linkTo } from "../../shared/place.js";
import { Workplace } from "../../shared/shell/Shell.js";
import { WORKPLACES, type WorkplaceId } from "../../shared/workplaces.js";

const EMPTY = { is: "empty" } as const;

export function LaterWorkplace({ id }: { id: WorkplaceId }) {
  const workplace = WORKPLACES.find((candidate) => candidate.id === id);
  return (
    <Workplace
      id={id}
      phase={EMPTY}
      word="page"
      name={null}
      robot={null}
      open={() => {}}
      empty={
        <>
          <Pebble fill="hollow" width={56} />
          <h1>{workplace?.title}: not built yet</h1>
          <p>{workplace?.later}</p>
          <a href={linkTo("/mission")}>Go to the Mission workplace</a>
        </>
      }
      shortcuts={[]}
      message={null}
      said={() => {}}
    >
      {null}
    </Workplace>
  );
}
