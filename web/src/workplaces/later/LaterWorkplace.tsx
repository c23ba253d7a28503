// A workplace that is not built: one honest sentence, and the way to what is.
import "../../shared/noEval.js";
import { Frame } from "../../shared/Frame.js";
import { Pebble } from "../../shared/Pebble.js";
import { linkTo } from "../../shared/place.js";
import { Themed } from "../../shared/theme.js";
import { WORKPLACES, type WorkplaceId } from "../../shared/workplaces.js";

export function LaterWorkplace({ id }: { id: WorkplaceId }) {
  const workplace = WORKPLACES.find((candidate) => candidate.id === id);
  return (
    <Themed>
      <Frame current={id}>
        <main className="centre">
          <Pebble fill="hollow" width={56} />
          <h1>{workplace?.title}: not built yet</h1>
          <p>{workplace?.later}</p>
          <a href={linkTo("/mission")}>Go to the Mission workplace</a>
        </main>
      </Frame>
    </Themed>
  );
}
