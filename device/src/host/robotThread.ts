// The thread of one robot: its host, its time and its links. The sockets are held by the main thread, which passes
// frames on both ways and watches the beat.
import { type MessagePort, parentPort, receiveMessageOnPort, workerData } from "node:worker_threads";
import { StandIn } from "../standin/standIn.js";
import { realClock } from "./clock.js";
import type { FrameSocket } from "./frameSocket.js";
import { RobotLink } from "./link.js";
import { RobotHost } from "./robotHost.js";
import { infoOf, type RobotPlan } from "./seat.js";
import { Shelf } from "./shelf.js";
import { BEAT_MS, type FromThread, type ToThread, type Urgent } from "./threadMessages.js";

if (!parentPort) throw new Error("robotThread.js runs as a worker thread only");
const port = parentPort;
const { plan, urgent } = workerData as { readonly plan: RobotPlan; readonly urgent: MessagePort };
const say = (message: FromThread) => port.postMessage(message);

/** A connection whose socket the main thread has. */
class PassedSocket implements FrameSocket {
  open = true;
  waiting = 0;
  take: (data: Buffer, isBinary: boolean) => void = () => {};
  gone: () => void = () => {};

  constructor(private readonly link: number) {}

  send(data: string | Uint8Array): void {
    // Counted as the main thread counts what has left: characters of texts, bytes of the rest.
    this.waiting += data.length;
    say({ kind: "send", link: this.link, data });
  }

  close(code: number, reason: string): void {
    say({ kind: "close", link: this.link, code, reason });
  }

  terminate(): void {
    say({ kind: "terminate", link: this.link });
  }

  onMessage(take: PassedSocket["take"]): void {
    this.take = take;
  }

  onClose(call: () => void): void {
    this.gone = call;
  }
}

const host = new RobotHost(plan.id, new StandIn(plan.robot, plan.seed), new Shelf(plan.shelf), realClock);
const sockets = new Map<number, PassedSocket>();
const beat = () => say({ kind: "beat", info: infoOf(host) });
beat();
setInterval(beat, BEAT_MS);

/** Halts that came meanwhile: looked for before every frame, so that none of those before it keeps it waiting. */
function hearUrgent(): void {
  for (let found = receiveMessageOnPort(urgent); found; found = receiveMessageOnPort(urgent)) {
    const { link, data } = found.message as Urgent;
    sockets.get(link)?.take(Buffer.from(data), false);
  }
}

function hear(message: ToThread): void {
  hearUrgent();
  if (message.kind === "urgent") return;
  if (message.kind === "end") {
    host.dispose();
    process.exit(0);
  }
  if (message.kind === "opened") {
    const socket = new PassedSocket(message.link);
    sockets.set(message.link, socket);
    new RobotLink(socket, host, realClock);
    return;
  }
  const socket = sockets.get(message.link);
  if (!socket) return;
  if (message.kind === "heard") socket.take(Buffer.from(message.data), message.isBinary);
  else if (message.kind === "left") socket.waiting = Math.max(0, socket.waiting - message.bytes);
  else {
    socket.open = false;
    sockets.delete(message.link);
    socket.gone();
  }
}

port.on("message", hear);
