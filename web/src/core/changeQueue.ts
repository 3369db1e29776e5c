/** Changes sent one after another, each on the state the last one led to.
 *
 * A change waits where the server does not answer, and is sent again until it does. One that is refused is told and let go;
 * those behind it go on. So none is lost, and none is made on a state that the person has not seen.
 */

export interface Waiting {
  /** Its own name: the server makes a change once for each. */
  ticket: string;
  /** Send it. Rejects where it was refused, or where nobody answered. */
  send: () => Promise<void>;
}

export interface QueueHooks {
  /** Whether a refusal means that nobody answered. */
  isUnanswered: (reason: unknown) => boolean;
  /** A change was refused: it will not be made. */
  refused: (reason: unknown) => void | Promise<void>;
  /** What waits has changed, or whether the server answers. */
  moved: (unanswered: boolean) => void;
  /** Resolves when it is time to try again. */
  pause: () => Promise<void>;
}

export class ChangeQueue<T extends Waiting> {
  waiting: readonly T[] = [];
  private running = false;

  constructor(private readonly hooks: QueueHooks) {}

  /** Put a change behind those that wait. Resolves when nothing waits any more. */
  async add(change: T): Promise<void> {
    this.waiting = [...this.waiting, change];
    this.hooks.moved(false);
    await this.drain();
  }

  private async drain(): Promise<void> {
    if (this.running) return;
    this.running = true;
    try {
      for (let next = this.waiting[0]; next; next = this.waiting[0]) {
        if (await this.sent(next)) this.waiting = this.waiting.filter((one) => one !== next);
        this.hooks.moved(false);
      }
    } finally {
      this.running = false;
    }
  }

  /** Whether a change is done with, made or refused. */
  private async sent(change: T): Promise<boolean> {
    try {
      await change.send();
      return true;
    } catch (reason) {
      if (!this.hooks.isUnanswered(reason)) {
        await this.hooks.refused(reason);
        return true;
      }
      this.hooks.moved(true);
      await this.hooks.pause();
      return false;
    }
  }
}
