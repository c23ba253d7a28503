// What a connection is answered whose request cannot be read, or does not come.
import type { Socket } from "node:net";

const close = "connection: close\r\n\r\n";

/**
 * A browser opens connections ahead of need. One that was never used is closed without a word: an answer there would be
 * taken for that of the next request. Source: RFC 9110, 15.5.9 (408) and 15.5.1 (400).
 */
export function answerBroken(error: NodeJS.ErrnoException, socket: Socket): void {
  if (!socket.writable || socket.bytesRead === 0) socket.destroy();
  else if (error.code === "ERR_HTTP_REQUEST_TIMEOUT") socket.end(`HTTP/1.1 408 Request Timeout\r\n${close}`);
  else socket.end(`HTTP/1.1 400 Bad Request\r\n${close}`);
}
