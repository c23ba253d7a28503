/** One colour a run, in the order they were chosen; told apart by dashes too. */
export const COLOURS = ["var(--water)", "var(--amber)", "var(--heather)", "var(--moss)"] as const;
