// The words of Cairn, each with an example that runs; and the words of the screens, each with what it means.
import "../../shared/noEval.js";
import { CAIRN_REFERENCE, GLOSSARY, type ReferenceEntry } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import { useEffect, useState } from "react";
import { api } from "../../shared/api.js";
import { Typed } from "../../shared/controls.js";
import { go } from "../../shared/going.js";
import { linkTo } from "../../shared/place.js";
import { Foot, Workplace } from "../../shared/shell/Shell.js";

const READY = { is: "ready" } as const;
const slug = (word: string) => word.replaceAll(" ", "-");

export function HelpWorkplace() {
  const [message, setMessage] = useState<string | null>(null);
  return (
    <Workplace
      id="help"
      phase={READY}
      word="words"
      name={null}
      robot={null}
      open={() => {}}
      empty={null}
      shortcuts={[]}
      message={message}
      said={() => setMessage(null)}
    >
      <main className="help">
        <Words say={setMessage} />
        <Foot />
      </main>
    </Workplace>
  );
}

function Words({ say }: { say: (words: string) => void }) {
  const [wanted, setWanted] = useState("");
  const fits = (text: string) => text.toLowerCase().includes(wanted.trim().toLowerCase());
  // An address with a word leads to it, once it is there.
  useEffect(() => {
    const at = decodeURIComponent(window.location.hash.slice(1));
    if (at !== "") document.getElementById(at)?.scrollIntoView({ block: "start" });
  }, []);
  const groups = CAIRN_REFERENCE.map(({ title, entries }) => ({
    title,
    entries: entries.filter(({ word, help }) => fits(`${word} ${help}`)),
  })).filter(({ entries }) => entries.length > 0);
  const terms = GLOSSARY.map(({ title, terms: all }) => ({
    title,
    terms: all.filter(({ term, means, also }) => fits(`${term} ${means} ${also.join(" ")}`)),
  })).filter(({ terms: some }) => some.length > 0);
  return (
    <div className="helppage">
      <header>
        <h1>Words</h1>
        <Typed
          type="search"
          className="homesearch"
          aria-label="Look for a word"
          placeholder="Look for a word"
          value={wanted}
          onChange={(event) => setWanted(event.target.value)}
        />
      </header>
      {groups.length + terms.length === 0 && (
        <p className="quiet">No word fits. Try another one, such as turn or gyro.</p>
      )}
      {groups.map(({ title, entries }) => (
        <section key={title} aria-label={title}>
          <h2>{title}</h2>
          <dl className="reference">
            {entries.map((entry) => (
              <Entry key={entry.word} entry={entry} say={say} />
            ))}
          </dl>
        </section>
      ))}
      {terms.map(({ title, terms: some }) => (
        <section key={title} aria-label={`Terms: ${title}`}>
          <h2>{title}</h2>
          <dl className="glossary">
            {some.map(({ term, means, also }) => (
              <div key={term} id={slug(term)}>
                <dt>{term}</dt>
                <dd>
                  {means}.{also.length > 0 && <span className="quiet"> Others say {also.join(", ")}.</span>}
                </dd>
              </div>
            ))}
          </dl>
        </section>
      ))}
    </div>
  );
}

/** "Example turn", a number behind it when there is one already. */
async function exampleName(word: string): Promise<string> {
  const found = await api.documents("mission");
  const names = new Set(found.ok ? found.value.documents.map(({ name }) => name) : []);
  for (let n = 1; ; n += 1) {
    const name = `Example ${word}${n === 1 ? "" : ` ${n}`}`;
    if (!names.has(name)) return name;
  }
}

function Entry({ entry, say }: { entry: ReferenceEntry; say: (words: string) => void }) {
  const { word, help, example } = entry;
  const make = async () => {
    const made = await api.create("mission", await exampleName(word), example, `the example of ${word}`);
    if (made.ok) go(linkTo(`/mission?mission=${made.value.document.id}`));
    else say(made.message);
  };
  const [, below = ""] = example.split(/\n\n/);
  const shown = example.slice(example.indexOf(below)).trimEnd();
  return (
    <div id={slug(word)}>
      <dt className="mono">{word}</dt>
      <dd>
        <p>{help}</p>
        <pre className="mono">{shown}</pre>
        <Button variant="outlined" onClick={() => void make()} aria-label={`Try it as a mission: ${word}`}>
          Try it as a mission
        </Button>
      </dd>
    </div>
  );
}
