import { say } from './notices.svelte';

interface Step {
  what: string;
  undo: () => Promise<void>;
}

/** What was done last can be undone: newest first. */
class Undo {
  steps = $state.raw<Step[]>([]);

  push(what: string, undo: () => Promise<void>): void {
    this.steps = [...this.steps.slice(-49), { what, undo }];
  }

  async last(): Promise<void> {
    const step = this.steps.at(-1);
    if (!step) return;
    this.steps = this.steps.slice(0, -1);
    await step.undo();
    say(`Undone: ${step.what}`);
  }
}

export const undo = new Undo();
