const KEY = 'upper-tray.first-steps';

export const STEPS = ['crop', 'recipe', 'make'] as const;
export type Step = (typeof STEPS)[number];

/** The first visit, in three steps on the real board: what somebody did of them, and whether they left. */
class FirstSteps {
  private kept = $state.raw<readonly string[]>(read());
  open = $derived(!this.kept.includes('left'));
  /** The first that was not done yet; nothing once all were. */
  now = $derived(this.open ? STEPS.find((step) => !this.kept.includes(step)) : undefined);

  has(step: Step): boolean {
    return this.kept.includes(step);
  }

  did(step: Step): void {
    if (this.open && !this.has(step)) this.keep([...this.kept, step]);
  }

  leave(): void {
    this.keep(['left']);
  }

  again(): void {
    this.keep([]);
  }

  private keep(next: readonly string[]): void {
    this.kept = next;
    try {
      localStorage.setItem(KEY, next.join(' '));
    } catch {
      // Shown again in the next window: there is no place to note it.
    }
  }
}

function read(): readonly string[] {
  try {
    return (localStorage.getItem(KEY) ?? '').split(' ').filter(Boolean);
  } catch {
    return ['left'];
  }
}

export const steps = new FirstSteps();
