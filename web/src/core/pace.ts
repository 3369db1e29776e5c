/** One run at a time: of what is asked for meanwhile only the newest follows, so that answers come however fast they are asked. */

export class Pace {
  private busy = false;
  private next: (() => Promise<void>) | null = null;

  /** Settled when nothing waits any more; at once where a run is under way. `work` tells its own errors. */
  async run(work: () => Promise<void>): Promise<void> {
    this.next = work;
    if (this.busy) return;
    this.busy = true;
    try {
      while (this.next) {
        const now: () => Promise<void> = this.next;
        this.next = null;
        await now();
      }
    } finally {
      this.busy = false;
    }
  }

  /** Forget what waits. */
  drop(): void {
    this.next = null;
  }
}
