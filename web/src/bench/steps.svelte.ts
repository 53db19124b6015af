/** Changes that come within this many milliseconds of each other, of one name, are one step: as of a hand that draws. */
const ONE_STEP = 700;
const MOST = 200;

/** What was tried before, step by step, of something that is not kept yet. */
export class Steps<T> {
  private readonly get: () => T;
  private readonly put: (value: T) => void;
  private before = $state.raw<T[]>([]);
  private after = $state.raw<T[]>([]);
  private last = { name: '', at: 0 };

  /** get, put: the value that is tried. */
  constructor(get: () => T, put: (value: T) => void) {
    this.get = get;
    this.put = put;
  }

  /** Another value. name: of what is changed; none for a step of its own. */
  set(value: T, name = ''): void {
    const now = Date.now();
    if (!name || name !== this.last.name || now - this.last.at > ONE_STEP) this.before = [...this.before.slice(1 - MOST), this.get()];
    this.last = { name, at: now };
    this.after = [];
    this.put(value);
  }

  // As `undo.local`: steps that are not kept yet come first.
  get past(): boolean {
    return this.before.length > 0;
  }

  get future(): boolean {
    return this.after.length > 0;
  }

  back(): void {
    const value = this.before.at(-1);
    if (value === undefined) return;
    this.after = [...this.after, this.get()];
    this.before = this.before.slice(0, -1);
    this.last = { name: '', at: 0 };
    this.put(value);
  }

  forth(): void {
    const value = this.after.at(-1);
    if (value === undefined) return;
    this.before = [...this.before, this.get()];
    this.after = this.after.slice(0, -1);
    this.put(value);
  }

  forget(): void {
    this.before = [];
    this.after = [];
  }
}
