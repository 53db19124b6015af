/** What a tray looked like when somebody left it: through the bench and back, through reloads, in the address. */

/** What is shown, and in which order. */
export interface How {
  sort: string;
  name: string;
  shape: string;
  format: string;
  state: string;
  /** Those that guests of a proof room say yes, maybe or no of, as 12:yes. */
  picks: string;
}

export const ALL: How = { sort: 'folder', name: '', shape: '', format: '', state: '', picks: '' };

interface Kept {
  how: How;
  /** The cell in focus, by photo and recipe, and how far down the board was. */
  focus?: [number, number];
  top?: number;
}

const key = (tray: number) => `upper-tray.board.${tray}`;

export function kept(tray: number): Kept {
  try {
    return { how: ALL, ...(JSON.parse(sessionStorage.getItem(key(tray)) ?? '{}') as Partial<Kept>) };
  } catch {
    return { how: ALL };
  }
}

export function keep(tray: number, change: Partial<Kept>): void {
  sessionStorage.setItem(key(tray), JSON.stringify({ ...kept(tray), ...change }));
}

/** What an address asks for; undefined where it says nothing of it. */
export function howOf(query: string): How | undefined {
  const asked = new URLSearchParams(query);
  const names = (Object.keys(ALL) as (keyof How)[]).filter((name) => asked.has(name));
  return names.length ? { ...ALL, ...Object.fromEntries(names.map((name) => [name, asked.get(name) ?? ''])) } : undefined;
}

/** The address of a board as it is shown. */
export function addressOf(tray: number, how: How): string {
  const said = (Object.keys(ALL) as (keyof How)[]).filter((name) => how[name] !== ALL[name]);
  const query = new URLSearchParams(said.map((name) => [name, how[name]])).toString();
  return `/trays/${tray}${query ? `?${query}` : ''}`;
}
