import pino from "pino";

/** Structured lines on standard error; quiet unless something needs a look. */
export const logger = pino({ level: process.env.GIDDY_LOG ?? "warn" }, pino.destination(2));
