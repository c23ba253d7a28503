// Says again and again that it is time: of a page in the background too, whose own timers are slowed down.
let timer: ReturnType<typeof setInterval> | undefined;

self.onmessage = ({ data }: MessageEvent<number>) => {
  clearInterval(timer);
  timer = setInterval(() => self.postMessage(null), data);
};
