import { Worker } from 'node:worker_threads';

const TICK_MS = 200;
const LONGEST_NAME = 1000;

/**
 * Watches this thread over small files, for which a thread of their own would take longer to start than they
 * to be read.
 */
export class Watchdog {
  private readonly counts = new Int32Array(new SharedArrayBuffer(8));
  private readonly name = new Uint8Array(new SharedArrayBuffer(LONGEST_NAME + 1));
  private started = false;

  constructor(private readonly seconds: number) {}

  /**
   * Does the work; when it keeps this thread for longer than it may, the process is ended with words that
   * name the path.
   */
  async during<T>(path: string, work: () => Promise<T>): Promise<T> {
    this.start();
    const bytes = new TextEncoder().encode(path).subarray(0, Math.min(255, LONGEST_NAME));
    this.name[0] = bytes.length;
    this.name.set(bytes, 1);
    const ticking = setInterval(() => Atomics.add(this.counts, 0, 1), TICK_MS);
    Atomics.add(this.counts, 0, 1);
    this.working(1);
    try {
      return await work();
    } finally {
      clearInterval(ticking);
      this.working(-1);
    }
  }

  private working(by: 1 | -1): void {
    Atomics.add(this.counts, 1, by);
    Atomics.notify(this.counts, 1);
  }

  private start(): void {
    if (this.started) return;
    this.started = true;
    const thread = new Worker(new URL('./watchdog.mjs', import.meta.url), {
      workerData: { counts: this.counts, name: this.name, seconds: this.seconds },
      // Nothing of the loader of this process is needed there.
      execArgv: [],
    });
    thread.unref();
  }
}
