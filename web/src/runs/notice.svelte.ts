import { studio } from '../shell/studio.svelte';
import { going, stand } from '../words/runs';
import type { Run } from '../api/client';

/** Seconds that a run takes at least before anybody is asked whether to be told of its end. */
const LONG = 60;
const NEVER = 'upper-tray.notices.never';

function refused(): boolean {
  try {
    return localStorage.getItem(NEVER) !== null;
  } catch {
    return true;
  }
}

/** The browser's own notice of a run that is finished: asked for once, and only when a run is long. */
class Telling {
  private answered = $state(refused());
  private known = new Set<number>();

  /** Whether to ask now, for this run. */
  asks(run: Pick<Run, 'seconds_left'>): boolean {
    return !this.answered && 'Notification' in window && Notification.permission === 'default' && (run.seconds_left ?? 0) > LONG;
  }

  async allow(): Promise<void> {
    this.answered = true;
    await Notification.requestPermission();
  }

  never(): void {
    this.answered = true;
    try {
      localStorage.setItem(NEVER, '1');
    } catch {
      // Asked again in the next window: there is no place to note it.
    }
  }

  /** Look at the studio's runs: those that went on before and are over now are told of, unless somebody looks on. */
  look(): void {
    for (const run of studio.runs) {
      if (going(run)) this.known.add(run.id);
      else if (this.known.delete(run.id) && document.hidden && 'Notification' in window && Notification.permission === 'granted') {
        const notice = new Notification(`${run.tray_name} is made`, { body: stand(run), tag: `run-${run.id}` });
        notice.onclick = () => {
          window.focus();
          location.assign(`/runs/${run.id}`);
        };
      }
    }
  }
}

export const telling = new Telling();
