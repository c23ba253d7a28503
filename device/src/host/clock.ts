// Time as the robot's host sees it: the machine's own, or one that a test moves on.
export interface Clock {
  /** Milliseconds since some start; never goes back. */
  now(): number;
  /** Calls again and again. @returns what ends it */
  every(ms: number, call: () => void): () => void;
  after(ms: number, call: () => void): () => void;
}

export const realClock: Clock = {
  now: () => performance.now(),
  every(ms, call) {
    const timer = setInterval(call, ms);
    return () => clearInterval(timer);
  },
  after(ms, call) {
    const timer = setTimeout(call, ms);
    return () => clearTimeout(timer);
  },
};

/** A clock that stands until it is told to go on. */
export class TestClock implements Clock {
  private time = 0;
  private readonly calls = new Set<{ due: number; every: number | null; call: () => void }>();

  now(): number {
    return this.time;
  }

  every(ms: number, call: () => void): () => void {
    return this.add(ms, ms, call);
  }

  after(ms: number, call: () => void): () => void {
    return this.add(ms, null, call);
  }

  private add(ms: number, every: number | null, call: () => void): () => void {
    const entry = { due: this.time + ms, every, call };
    this.calls.add(entry);
    return () => this.calls.delete(entry);
  }

  /** Lets time pass; everything due is called in its order. */
  pass(ms: number): void {
    const end = this.time + ms;
    for (;;) {
      let next: { due: number; every: number | null; call: () => void } | null = null;
      for (const entry of this.calls) if (entry.due <= end && (next === null || entry.due < next.due)) next = entry;
      if (!next) break;
      this.time = Math.max(this.time, next.due);
      if (next.every === null) this.calls.delete(next);
      else next.due += next.every;
      next.call();
    }
    this.time = end;
  }
}
