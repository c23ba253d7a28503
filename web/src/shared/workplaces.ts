// The seven workplaces, in the order people need them.
export const WORKPLACES = [
  { id: "robot", title: "Robot" },
  { id: "calibrate", title: "Calibrate" },
  { id: "field", title: "Field" },
  { id: "mission", title: "Mission" },
  { id: "drive", title: "Drive" },
  { id: "trials", title: "Trials" },
  { id: "notebook", title: "Notebook" },
] as const;

export type WorkplaceId = (typeof WORKPLACES)[number]["id"];
