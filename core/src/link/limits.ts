// Sizes and rates of the robot link. Both ends hold to them; what goes beyond is refused, not cut.

/** The WebSocket subprotocol (RFC 6455, section 1.9). */
export const LINK_PROTOCOL = "pebble-link.1";
/** The subprotocol of the line to a board on this computer. */
export const BOARD_PROTOCOL = "pebble-board.1";
/** Largest text frame, bytes. */
export const MOST_FRAME_BYTES = 32 * 1024;
/** Largest program package, bytes: mission, robot and field as JSON, with the picture of its floor. */
export const MOST_PACKAGE_BYTES = 6 * 1024 * 1024;
/** Characters of a package in one `part`. */
export const PART_CHARS = 8 * 1024;
/** Missions on a robot's shelf. */
export const SHELF_ROOM = 12;
/** A robot driven by hand stops when nothing was heard for this long, ms. */
export const WATCHDOG_MS = 300;
/** Frames a second a robot takes from one link; beyond it answers `refused`. */
export const MOST_FRAMES_PER_SEC = 400;
/** Why a run ended that somebody halted. */
export const HALTED = "it was halted";
/** Readings are sent this often, per second. */
export const READINGS_HZ = 50;
/** Links one robot holds at a time. */
export const MOST_LINKS = 8;
/** Rows of a trace in one binary frame. */
export const TRACE_ROWS = 500;
/** End of a refusal by a stand-in whose drawing has changed since it was built. */
export const BUILD_AGAIN = "Build it again from the drawing.";
/** Speed of a board's serial line, bits a second; a byte is ten. */
export const SERIAL_BAUD = 115_200;
