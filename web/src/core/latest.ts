/** Of many calls only the newest counts: older ones are aborted and their answers dropped. */

export class Latest {
  private controller: AbortController | null = null;

  /** Run `work`; undefined when a newer run has begun meanwhile. */
  async run<T>(work: (signal: AbortSignal) => Promise<T>): Promise<T | undefined> {
    this.cancel();
    const own = new AbortController();
    this.controller = own;
    try {
      const answer = await work(own.signal);
      return this.controller === own ? answer : undefined;
    } catch (error) {
      if (this.controller !== own) return undefined;
      throw error;
    }
  }

  cancel(): void {
    this.controller?.abort();
    this.controller = null;
  }
}
