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
    await step.undo(); // where this fails, the step stays and can be tried again
    this.steps = this.steps.filter((each) => each !== step);
    say(`Undone: ${step.what}`);
  }
}

export const undo = new Undo();
