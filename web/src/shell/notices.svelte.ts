export interface Notice {
  id: number;
  text: string;
  bad: boolean;
}

class Notices {
  all = $state.raw<Notice[]>([]);
}

export const notices = new Notices();
let next = 1;

/** Say something in the corner; it goes by itself, bad news more slowly. */
export function say(text: string, bad = false): void {
  const notice = { id: next++, text, bad };
  notices.all = [...notices.all.slice(-2), notice];
  setTimeout(() => dismiss(notice.id), bad ? 12_000 : 4_000);
}

export function dismiss(id: number): void {
  notices.all = notices.all.filter((notice) => notice.id !== id);
}

/** Do something and say what went wrong, if anything did. */
export async function trying(work: () => Promise<void>): Promise<void> {
  try {
    await work();
  } catch (error) {
    say(error instanceof Error ? error.message : String(error), true);
  }
}
