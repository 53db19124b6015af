const KEY = 'upper-tray.view';
const HEIGHT = 134;

interface Kept {
  height: number;
  facts: boolean;
  /** Whether cells show what their outlets' pages cover. */
  covered: boolean;
  /** Of trays that have a height of their own. */
  heights: Record<string, number>;
}

function kept(): Kept {
  try {
    return { height: HEIGHT, facts: true, covered: false, heights: {}, ...(JSON.parse(localStorage.getItem(KEY) ?? '{}') as Partial<Kept>) };
  } catch {
    return { height: HEIGHT, facts: true, covered: false, heights: {} };
  }
}

/** How a person likes their boards: kept by the browser, row heights for each tray. A new tray takes the last one. */
class View {
  private all = $state.raw(kept());
  private tray = $state('');
  height = $derived(this.all.heights[this.tray] ?? this.all.height);
  facts = $derived(this.all.facts);
  covered = $derived(this.all.covered);

  of(tray: number): void {
    this.tray = String(tray);
  }

  set(change: { height?: number; facts?: boolean; covered?: boolean }): void {
    const height = Math.min(300, Math.max(84, change.height ?? this.height));
    this.all = { height, facts: change.facts ?? this.facts, covered: change.covered ?? this.covered, heights: { ...this.all.heights, [this.tray]: height } };
    localStorage.setItem(KEY, JSON.stringify(this.all));
  }
}

export const view = new View();
