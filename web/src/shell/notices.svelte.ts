import { Problem } from '../api/client';

export interface Notice {
  id: number;
  text: string;
  bad: boolean;
  /** A way to where it happened, or something to do about it. */
  link?: { to: string; text: string } | undefined;
  /** How often the same was said while it stood there. */
  times: number;
}

class Notices {
  all = $state.raw<Notice[]>([]);
}

export const notices = new Notices();
let next = 1;
/** Milliseconds a letter, so that a long sentence can be read to its end. */
const READING = 80;
const timers = new Map<number, ReturnType<typeof setTimeout>>();

/** Say something in the corner; it goes by itself, bad news and ways to somewhere more slowly. */
export function say(text: string, how: { bad?: boolean; link?: Notice['link'] } = {}): void {
  const same = notices.all.find((each) => each.text === text);
  const notice = { id: same?.id ?? next++, text, bad: how.bad ?? false, link: how.link, times: (same?.times ?? 0) + 1 };
  notices.all = [...notices.all.filter((each) => each !== same).slice(-2), notice];
  clearTimeout(timers.get(notice.id));
  timers.set(notice.id, setTimeout(() => dismiss(notice.id), notice.bad || notice.link ? 12_000 : Math.max(4_000, READING * text.length)));
}

export function dismiss(id: number): void {
  notices.all = notices.all.filter((notice) => notice.id !== id);
  timers.delete(id);
}

/** What takes longer than this says that it goes on. */
const LONG = 300;

class Busy {
  /** How many things that somebody asked for take long. */
  long = $state(0);
}

export const busy = new Busy();

const underWay = new Set<Promise<unknown>>();

/** What somebody asked for before is done: what counts on it may begin. */
export async function settled(): Promise<void> {
  await Promise.allSettled(underWay);
}

/** Do something and say what went wrong, if anything did; while it takes long, that is seen. */
export function trying(work: () => Promise<void>): Promise<void> {
  const done = attempt(work, () => true);
  underWay.add(done);
  void done.finally(() => underWay.delete(done));
  return done;
}

/** The same for what is only looked at: nothing waits for it, and that the server is away is said at the top already. */
export function showing(work: () => Promise<void>): Promise<void> {
  return attempt(work, (error) => !(error instanceof Problem && error.status === 0));
}

async function attempt(work: () => Promise<void>, told: (error: unknown) => boolean): Promise<void> {
  let long = false;
  const timer = setTimeout(() => {
    long = true;
    busy.long += 1;
  }, LONG);
  try {
    await work();
  } catch (error) {
    if (told(error)) say(error instanceof Error ? error.message : String(error), { bad: true });
  } finally {
    clearTimeout(timer);
    if (long) busy.long -= 1;
  }
}
