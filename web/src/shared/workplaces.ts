// The seven workplaces, in the order people need them; those not built say in one sentence what will be there.
export const WORKPLACES = [
  { id: "robot", title: "Robot", later: null },
  { id: "calibrate", title: "Calibrate", later: null },
  { id: "field", title: "Field", later: null },
  { id: "mission", title: "Mission", later: null },
  { id: "drive", title: "Drive", later: null },
  { id: "trials", title: "Trials", later: null },
  {
    id: "notebook",
    title: "Notebook",
    later:
      "Here a printable account of robot, calibrations, missions and decisions will write itself for judges and for next year's team.",
  },
] as const;

export type WorkplaceId = (typeof WORKPLACES)[number]["id"];
