// How often each version of a mission worked, with its 95 % interval: whether a change helped, or only chance did.
import { ratesDrawing, svgAddress, type VersionRate } from "@giddy-pebble/core";
import { useTrials } from "./store.js";

const NONE: readonly VersionRate[] = [];

export function SuccessRate() {
  const versions = useTrials((state) => state.counts?.versions ?? NONE);
  const name = useTrials((state) => state.missions.find(({ id }) => id === state.filter.mission)?.name ?? "");
  if (versions.length === 0) return null;
  return (
    <section className="card" aria-label="How often it worked">
      <h2>How often {name} worked</h2>
      <img className="ratesimage" src={svgAddress(ratesDrawing(versions))} alt={rateWords(versions)} />
      <p className="quiet">
        A dot is the share that worked. Its bar holds the true share 95 times in 100. Bars that do not meet: the
        difference is hardly chance.
      </p>
    </section>
  );
}

function rateWords(versions: readonly VersionRate[]): string {
  return versions.map(({ number, runs, successes }) => `version ${number}: ${successes} of ${runs} worked`).join("; ");
}
