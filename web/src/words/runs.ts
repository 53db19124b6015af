import { duration } from './numbers';

interface Counts {
  total: number;
  open: number;
  asking: number;
  made: number;
  failed: number;
  kept: number;
  stopped: number;
}

/** What the words are of; every run has it. */
export interface Told {
  counts: Counts;
  finished?: string | null;
  stop_asked: boolean;
  held?: boolean;
  seconds_left: number | null;
}

/** Renditions that came to an end by being worked on: what was stopped is not among them. */
export function worked(counts: Counts): number {
  return counts.made + counts.failed + counts.kept;
}

/** How a run stands, in a few words: what came of it once nothing is worked on any more, how far it is before. */
export function stand(run: Told): string {
  const { counts } = run;
  if (counts.open > 0) {
    const left = run.held ? ' · held' : run.stop_asked ? ' · stopping…' : run.seconds_left !== null ? ` · ${duration(run.seconds_left)} left` : '';
    const failed = counts.failed ? `, ${counts.failed} failed` : '';
    return `${counts.made} made${failed}, ${counts.open} to go${left}`;
  }
  if (counts.asking > 0) return `done but for ${counts.asking}`;
  const parts = [`${counts.made} made`];
  if (counts.kept) parts.push(`${counts.kept} kept`);
  if (counts.failed) parts.push(`${counts.failed} failed`);
  if (counts.stopped) parts.push(`${counts.stopped} stopped`);
  return parts.join(', ');
}

/** Whether a run is still worked on: one of which the rest waits for a crop is not. */
export function going(run: Told): boolean {
  return !run.finished && run.counts.open > 0;
}
