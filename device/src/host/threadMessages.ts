// What the thread of a robot and the one with the sockets say to each other.
import type { RobotInfo } from "./seat.js";

/** To the robot's thread. Links are numbered by the thread with the sockets. */
export type ToThread =
  | { readonly kind: "opened"; readonly link: number }
  | { readonly kind: "heard"; readonly link: number; readonly data: Uint8Array; readonly isBinary: boolean }
  /** So many bytes have left through the socket. */
  | { readonly kind: "left"; readonly link: number; readonly bytes: number }
  | { readonly kind: "closed"; readonly link: number }
  /** Something urgent is there. */
  | { readonly kind: "urgent" }
  | { readonly kind: "end" };

/** From the robot's thread. */
export type FromThread =
  /** Sent a few times a second while it lives. */
  | { readonly kind: "beat"; readonly info: RobotInfo }
  | { readonly kind: "send"; readonly link: number; readonly data: string | Uint8Array }
  | { readonly kind: "close"; readonly link: number; readonly code: number; readonly reason: string }
  | { readonly kind: "terminate"; readonly link: number };

/** What does not wait in the line of frames: a halt is carried out before whatever came earlier. */
export interface Urgent {
  readonly link: number;
  readonly data: Uint8Array;
}

export const BEAT_MS = 250;
