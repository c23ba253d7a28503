// Lists that show what a page needs and no more; and a robot's new name, which counts everywhere at once.
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { Loose } from "../support/mission.js";
import { type RunningServer, request, startServer } from "../support/server.js";

let server: RunningServer;
beforeAll(async () => {
  server = await startServer();
});
afterAll(() => server.leave());

const call = (method: string, address: string, body?: unknown, over?: number) =>
  request(server, address, {
    method,
    headers: { "content-type": "application/json", ...(over === undefined ? {} : { "if-match": `"${over}"` }) },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });

const missions = async (): Promise<Loose[]> => (await call("GET", "/api/documents?kind=mission")).data.documents;

describe("a list of missions", () => {
  test("says which robot and field each names and whether it is for a driver, and follows what is typed", async () => {
    const text = 'cairn 1\nrobot "Gust"\nfield "Yard"\n\nmission\n  hand over\nremote\n  drive one stick\n';
    const made = (await call("POST", "/api/documents", { kind: "mission", name: "Listed", text })).data.document;
    expect(made).toMatchObject({ robot: "Gust", field: "Yard", remote: true });
    const typed = text
      .replace('"Gust"', '"Fog"')
      .replace('field "Yard"\n', "")
      .replace(/remote[\s\S]*/, "");
    await call("PUT", `/api/documents/${made.id}/draft`, { baseRevision: 1, text: typed }, 0);
    const listed = (await missions()).find(({ id }) => id === made.id);
    expect(listed).toMatchObject({ robot: "Fog", field: null, remote: false });
  });

  test("has them for the demo as well, and no list carries what documents hold", async () => {
    const { data } = await call("GET", "/api/documents");
    expect(data.documents.find((one: Loose) => one.name === "First roll out")).toMatchObject({ robot: "Drizzle" });
    const [first] = data.documents;
    const revisions = (await call("GET", `/api/documents/${first.id}/revisions`)).data.revisions;
    for (const one of [first, revisions[0]])
      for (const key of ["text", "body", "summary"]) expect(one).not.toHaveProperty(key);
    expect((await call("GET", `/api/documents/${first.id}/revisions/1`)).data).toHaveProperty("body");
  });
});

test("the overview counts what there is, in one answer", async () => {
  const { data } = await call("GET", "/api/overview");
  const { documents } = (await call("GET", "/api/documents")).data;
  for (const kind of ["robot", "field", "mission"])
    expect(data.documents[kind]).toBe(documents.filter((one: Loose) => one.kind === kind).length);
  expect(data).toMatchObject({ calibratedRobots: 0, trials: { count: 0, worked: false, most: 50 } });
});

describe("a robot's new name", () => {
  const open = async (name: string) =>
    (await call("GET", "/api/documents")).data.documents.find((one: Loose) => one.name === name);

  test("is taken over by lists and by every mission that names it, drafts and newest versions alike", async () => {
    const gust = await open("Gust");
    const { head, document } = (await call("GET", `/api/documents/${gust.id}`)).data;
    const text = 'cairn 1\nrobot "Gust"\n\nmission\n  go 30 cm\n';
    const [cut, typed] = await Promise.all(
      ["Cut", "Typed"].map(
        async (name) => (await call("POST", "/api/documents", { kind: "mission", name, text })).data.document.id,
      ),
    );
    await call("PUT", `/api/documents/${typed}/draft`, { baseRevision: 1, text: `${text}  # "Gust" was here\n` }, 0);
    const renamed = await call(
      "POST",
      `/api/documents/${gust.id}/revisions`,
      { baseRevision: document.headRevision, body: { ...head.body, name: "Squall" }, reason: "renamed" },
      0,
    );
    expect([renamed.status, renamed.data.document.name]).toEqual([200, "Squall"]);
    expect(await open("Gust")).toBeUndefined();
    const [one, two] = await Promise.all(
      [cut, typed].map(async (id) => (await call("GET", `/api/documents/${id}`)).data),
    );
    expect(one.head).toMatchObject({
      number: 2,
      text: text.replace("Gust", "Squall"),
      reason: "its robot is now called Squall",
    });
    expect(two.draft.text).toBe(`${text.replace("Gust", "Squall")}  # "Gust" was here\n`);
    expect((await missions()).filter(({ robot }) => robot === "Gust")).toEqual([]);
    // The versions before still say what ran then.
    expect((await call("GET", `/api/documents/${cut}/revisions/1`)).data.text).toBe(text);
  });

  test("that another robot has is refused, and nothing is renamed", async () => {
    const fog = await open("Fog");
    const { head, document } = (await call("GET", `/api/documents/${fog.id}`)).data;
    const body = { baseRevision: document.headRevision, body: { ...head.body, name: "Sleet" }, reason: "renamed" };
    const refused = await call("POST", `/api/documents/${fog.id}/revisions`, body, 0);
    expect([refused.status, refused.data.code]).toEqual([409, "name-taken"]);
    expect((await open("Fog")).id).toBe(fog.id);
  });
});
