/** What takes long is made once for a key, one after the other; what failed is made anew when it is asked for again. */
export class InTurn<T> {
  private readonly made = new Map<string, Promise<T>>();
  private last: Promise<unknown> = Promise.resolve();

  of(key: string, make: () => Promise<T>): Promise<T> {
    const known = this.made.get(key);
    if (known) return known;
    const one = this.last.then(make);
    this.made.set(key, one);
    this.last = one.catch(() => this.made.delete(key));
    return one;
  }
}
