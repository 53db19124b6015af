const KEY = 'upper-tray.board';

interface Kept {
  height: number;
  facts: boolean;
}

function kept(): Kept {
  try {
    return { height: 134, facts: true, ...(JSON.parse(localStorage.getItem(KEY) ?? '{}') as Partial<Kept>) };
  } catch {
    return { height: 134, facts: true };
  }
}

/** How a person likes their board: kept by the browser. */
class View {
  height = $state(kept().height);
  facts = $state(kept().facts);

  set(change: Partial<Kept>): void {
    this.height = Math.min(300, Math.max(84, change.height ?? this.height));
    this.facts = change.facts ?? this.facts;
    localStorage.setItem(KEY, JSON.stringify({ height: this.height, facts: this.facts }));
  }
}

export const view = new View();
