import type { Framing } from '../api/client';

/** What was drawn or typed and not kept yet, of one kind: it is there when somebody comes back, and after a reload. */
export class Drafts<T> {
  private readonly kind: string;

  constructor(kind: string) {
    this.kind = kind;
  }

  private at(key: string | number): string {
    return `upper-tray.${this.kind}.${key}`;
  }

  read(key: string | number): T | undefined {
    try {
      return (JSON.parse(sessionStorage.getItem(this.at(key)) ?? 'null') as T | null) ?? undefined;
    } catch {
      return undefined;
    }
  }

  write(key: string | number, draft: T): void {
    try {
      sessionStorage.setItem(this.at(key), JSON.stringify(draft));
    } catch {
      // The browser gives no more room: what is drawn stays on the page that it is drawn on.
    }
  }

  forget(key: string | number): void {
    sessionStorage.removeItem(this.at(key));
  }
}

/** Framings, by their cell. editing: the kept one that it would replace. */
export const drafts = new Drafts<{ framing: Framing; editing: Framing | null; tied: boolean }>('framing');
