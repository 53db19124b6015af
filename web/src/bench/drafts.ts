import type { Framing } from '../api/client';

/** A framing that was drawn and not kept. editing: the kept one that it would replace. */
interface Draft {
  framing: Framing;
  editing: Framing | null;
  tied: boolean;
}

const at = (key: string) => `upper-tray.framing.${key}`;

/** Framings that are not kept yet, by their cell: they are there when somebody comes back, and after a reload. */
export const drafts = {
  read(key: string): Draft | undefined {
    try {
      return (JSON.parse(sessionStorage.getItem(at(key)) ?? 'null') as Draft | null) ?? undefined;
    } catch {
      return undefined;
    }
  },
  write(key: string, draft: Draft): void {
    sessionStorage.setItem(at(key), JSON.stringify(draft));
  },
  forget(key: string): void {
    sessionStorage.removeItem(at(key));
  },
};
