/** The changes asked for in fields, made in the text one after the other, each a moment after it was asked for. */
export class Edits {
  private last: Promise<void> = Promise.resolve();

  /** Make a change once those before it are made, or have failed. */
  make(change: () => Promise<void>): Promise<void> {
    this.last = this.last.catch(() => undefined).then(change);
    return this.last;
  }

  /** Wait for the last change. Fails, once, where it could not be made: what is saved would lack it. */
  async made(): Promise<void> {
    const last = this.last;
    this.last = Promise.resolve();
    await last;
  }
}
