import { TO_MAKE } from '../words/states';
import { api, type Cell } from '../api/client';

/** Milliseconds without a change after which cells in view are weighed, and after which one is asked for again. */
const CALM = 1500;
const AGAIN = 20_000;
const AT_ONCE = 12;

/** Has cells that somebody looks at weighed exactly, by workers that have nothing else to do. */
export class Weighing {
  private timer: ReturnType<typeof setTimeout> | undefined;
  /** When a cell's weight was asked for last, by its key. */
  private asked = new Map<string, number>();

  constructor(private readonly tray: number) {}

  /** Something moved: once nothing does, the cells in view are asked for. */
  stir(inView: () => [number, Cell][], busy: () => boolean): void {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => {
      if (!document.hidden && !busy()) void this.ask(inView());
    }, CALM);
  }

  private async ask(inView: [number, Cell][]): Promise<void> {
    const now = Date.now();
    const cells = inView.filter(([, cell]) => cell.about && TO_MAKE.includes(cell.state) && now - (this.asked.get(cell.key) ?? -AGAIN) >= AGAIN).slice(0, AT_ONCE);
    if (!cells.length) return;
    for (const [, cell] of cells) this.asked.set(cell.key, now);
    const body = { cells: cells.map(([photo, cell]): [number, number] => [photo, cell.recipe]) };
    // Nobody asked for it: that it does not come is no reason to say anything.
    await api.POST('/api/trays/{number}/weigh', { params: { path: { number: this.tray } }, body }).catch(() => undefined);
  }
}
