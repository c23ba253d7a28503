// What a link needs of a connection, be it a WebSocket in this thread or one that another thread holds.
import type { WebSocket } from "ws";

export interface FrameSocket {
  readonly open: boolean;
  /** Bytes given to it that have not left yet. */
  readonly waiting: number;
  send(data: string | Uint8Array): void;
  /** Closes with a code and a reason (RFC 6455, section 7.4). */
  close(code: number, reason: string): void;
  terminate(): void;
  onMessage(take: (data: Buffer, isBinary: boolean) => void): void;
  onClose(call: () => void): void;
}

/** A WebSocket of this thread. */
export function webFrameSocket(web: WebSocket): FrameSocket {
  // The close that follows says it all.
  web.on("error", () => {});
  return {
    get open() {
      return web.readyState === web.OPEN;
    },
    get waiting() {
      return web.bufferedAmount;
    },
    // A failure to send is told by the close that follows.
    send: (data) => web.send(data, () => {}),
    close: (code, reason) => web.close(code, reason),
    terminate: () => web.terminate(),
    onMessage: (take) => void web.on("message", (data, isBinary) => take(asBuffer(data), isBinary)),
    onClose: (call) => void web.on("close", call),
  };
}

/** Messages that are kept for who takes them later. */
const MOST_HELD = 1000;

/** The same connection, whose messages wait until somebody takes them: the first thousand of them. */
export function holding(socket: FrameSocket): FrameSocket {
  const held: [Buffer, boolean][] = [];
  let take = (data: Buffer, isBinary: boolean) => {
    if (held.length < MOST_HELD) held.push([data, isBinary]);
  };
  socket.onMessage((data, isBinary) => take(data, isBinary));
  return {
    get open() {
      return socket.open;
    },
    get waiting() {
      return socket.waiting;
    },
    send: (data) => socket.send(data),
    close: (code, reason) => socket.close(code, reason),
    terminate: () => socket.terminate(),
    onMessage: (next) => {
      for (const [data, isBinary] of held.splice(0)) next(data, isBinary);
      take = next;
    },
    onClose: (call) => socket.onClose(call),
  };
}

/** A message as one buffer, however it came. */
export function asBuffer(data: Buffer | ArrayBuffer | Buffer[]): Buffer {
  if (Array.isArray(data)) return Buffer.concat(data);
  return Buffer.isBuffer(data) ? data : Buffer.from(data);
}
