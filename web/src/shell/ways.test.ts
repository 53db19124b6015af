import { render, screen } from '@testing-library/svelte';
import { tick } from 'svelte';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Run, Tray } from '../api/client';
import { telling } from '../runs/notice.svelte';
import RunCorner from '../runs/RunCorner.svelte';
import { server } from '../test/server';
import { escape, onEscape } from './escape';
import { follow, router } from './router.svelte';
import { steps } from './steps.svelte';
import { homeTray, rememberTray, studio } from './studio.svelte';

vi.mock('../api/client', async (original) => ({ ...(await original<object>()), api: (await import('../test/server')).server.api }));

describe('addresses', () => {
  beforeEach(() => router.go('/'));

  const clicked = (html: string, how: MouseEventInit = {}) => {
    document.body.innerHTML = html;
    // The page stays, whoever would have left it.
    const prevented: boolean[] = [];
    const stay = (event: Event) => (prevented.push(event.defaultPrevented), event.preventDefault());
    document.addEventListener('click', follow);
    document.addEventListener('click', stay);
    const event = new MouseEvent('click', { bubbles: true, cancelable: true, ...how });
    document.body.querySelector('[data-here]')?.dispatchEvent(event);
    document.removeEventListener('click', follow);
    document.removeEventListener('click', stay);
    return prevented[0];
  };

  it('are followed without loading the page anew, and back leads back', async () => {
    expect(clicked('<a href="/trays/3?state=eye"><b data-here>Board</b></a>')).toBe(true);
    expect([router.parts, router.query]).toEqual([['trays', '3'], '?state=eye']);
    history.back();
    await vi.waitFor(() => expect(router.path).toBe('/'));
  });

  it('of files, of other sites and in other tabs are left to the browser', () => {
    const link = (more: string) => `<a data-here ${more}>x</a>`;
    for (const more of ['href="/api/runs/3/zip"', 'href="/trays/3" download', 'href="/trays/3" target="_blank"', 'href="https://quillmarsh.example/"', 'href="/sign-out"']) expect(clicked(link(more)), more).toBe(false);
    for (const how of [{ ctrlKey: true }, { metaKey: true }, { shiftKey: true }, { button: 1 }]) expect(clicked(link('href="/trays/3"'), how)).toBe(false);
    expect(router.path).toBe('/');
  });

  it('are noted once, however often the same is pressed', () => {
    const noted = vi.spyOn(history, 'pushState');
    router.go('/runs');
    router.go('/runs');
    router.go('/recipes', true); // in the place of the one before
    expect(noted).toHaveBeenCalledOnce();
    expect(router.path).toBe('/recipes');
    noted.mockRestore();
  });
});

describe('Escape', () => {
  const pressed = (target: EventTarget = document.body) => {
    const event = new KeyboardEvent('keydown', { key: 'Escape', bubbles: true, cancelable: true });
    target.addEventListener('keydown', escape as EventListener, { once: true });
    target.dispatchEvent(event);
    return event;
  };

  it('closes the innermost thing alone', () => {
    const closed: string[] = [];
    const leavePage = onEscape(() => void closed.push('page'));
    const leavePanel = onEscape(() => void closed.push('panel'));
    pressed();
    expect(closed).toEqual(['panel']);
    leavePanel();
    pressed();
    expect(closed).toEqual(['panel', 'page']);
    leavePage();
  });

  it('asks the next one out where there was nothing to close', () => {
    const closed: string[] = [];
    const leave = [onEscape(() => void closed.push('page')), onEscape(() => false), onEscape(() => false)];
    expect(pressed().defaultPrevented).toBe(true);
    expect(closed).toEqual(['page']);
    leave.forEach((each) => each());
    expect(pressed().defaultPrevented).toBe(false);
  });

  it('leaves a field before anything is closed', () => {
    document.body.innerHTML = '<input>';
    const field = document.querySelector('input')!;
    field.focus();
    const close = vi.fn();
    const leave = onEscape(close);
    pressed(field);
    expect(document.activeElement).toBe(document.body);
    expect(close).not.toHaveBeenCalled();
    leave();
  });
});

describe('the first visit', () => {
  beforeEach(() => steps.again());

  it('goes on from step to step, in whatever order they are done', () => {
    expect([steps.open, steps.now]).toEqual([true, 'crop']);
    steps.did('recipe');
    expect(steps.now).toBe('crop');
    steps.did('crop');
    expect(steps.now).toBe('make');
    steps.did('make');
    expect([steps.open, steps.now]).toEqual([true, undefined]);
    expect(localStorage.getItem('upper-tray.first-steps')).toBe('recipe crop make');
  });

  it('is over when somebody leaves it, and counts nothing from then on', () => {
    steps.leave();
    steps.did('crop');
    expect([steps.open, steps.now, steps.has('crop')]).toEqual([false, undefined, false]);
    steps.again();
    expect(steps.now).toBe('crop');
  });
});

describe('what every screen knows', () => {
  it('is never an older answer over a newer one', async () => {
    const answers: ((trays: object[]) => void)[] = [];
    server.knows({ 'GET /api/trays': () => new Promise((done) => answers.push(done)) });
    const loads = [studio.loadTrays(), studio.loadTrays()];
    await vi.waitFor(() => expect(answers).toHaveLength(2));
    answers[1]?.([{ id: 1, name: 'Autumn' }, { id: 2, name: 'Winter' }]);
    await vi.waitFor(() => expect(studio.trays).toHaveLength(2));
    answers[0]?.([{ id: 1, name: 'Autumn' }]);
    await Promise.all(loads);
    expect(studio.trays?.map((tray) => tray.name)).toEqual(['Autumn', 'Winter']);
  });
});

describe('the corner of runs', () => {
  it('shows no run that was over before the page was opened', async () => {
    const over = { id: 3, tray_name: 'Autumn', finished: '2031-10-14T09:00:00Z', stop_asked: false, seconds_left: null, counts: { total: 9, open: 0, asking: 0, made: 9, failed: 0, kept: 0, stopped: 0 } };
    let runs: ((found: object[]) => void) | undefined;
    server.knows({ 'GET /api/me': {}, 'GET /api/trays': [], 'GET /api/recipes': [], 'GET /api/runs': () => new Promise((done) => (runs = done)) });
    studio.trays = undefined;
    studio.runs = [];
    render(RunCorner);
    const loaded = studio.load();
    await vi.waitFor(() => expect(runs).toBeDefined());
    await new Promise((done) => setTimeout(done, 20)); // everything else is here by now
    runs?.([over]);
    await loaded;
    await tick();
    expect(screen.queryByRole('link')).toBeNull();
    studio.runs = [{ ...over, id: 4 } as unknown as Run, over as unknown as Run]; // one that nobody saw going on
    expect(await screen.findByRole('link', { name: 'Run 4: 9 made' })).toBeInTheDocument();
  });
});

describe('the tray that opens first', () => {
  const trays = [{ id: 3 }, { id: 5 }] as Tray[];
  beforeEach(() => localStorage.clear());

  it('is the one that was open last, or the first there is', () => {
    expect(homeTray(trays)?.id).toBe(3);
    rememberTray(5);
    expect(homeTray(trays)?.id).toBe(5);
    rememberTray(99); // archived meanwhile
    expect(homeTray(trays)?.id).toBe(3);
    expect(homeTray([])).toBeUndefined();
  });
});

describe('being told of the end of a run', () => {
  const told: string[] = [];
  const run = (id: number, open: number) => ({ id, tray_name: 'Autumn', finished: open ? null : '2031-10-14T09:00:00Z', stop_asked: false, seconds_left: null, counts: { total: 9, open, asking: 0, made: 9 - open, failed: 0, kept: 0, stopped: 0 } }) as unknown as Run;
  let hidden = true;

  beforeEach(() => {
    told.length = 0;
    hidden = true;
    class Notice {
      static permission = 'granted';
      onclick: unknown;
      constructor(title: string, { body }: { body: string }) {
        told.push(`${title}: ${body}`);
      }
    }
    vi.stubGlobal('Notification', Notice);
    vi.spyOn(document, 'hidden', 'get').mockImplementation(() => hidden);
  });
  afterEach(() => {
    vi.unstubAllGlobals();
    vi.restoreAllMocks();
    studio.runs = [];
  });

  it('happens once, to whoever looks elsewhere', () => {
    studio.runs = [run(1, 4), run(2, 0)];
    telling.look();
    expect(told).toEqual([]); // of runs that were over before nothing is told
    studio.runs = [run(1, 0), run(2, 0)];
    telling.look();
    telling.look();
    expect(told).toEqual(['Autumn is made: 9 made']);
  });

  it('does not happen to whoever looks on', () => {
    hidden = false;
    studio.runs = [run(1, 4)];
    telling.look();
    studio.runs = [run(1, 0)];
    telling.look();
    expect(told).toEqual([]);
  });

  it('is asked about for long runs alone, and never again after a no', () => {
    (Notification as unknown as { permission: string }).permission = 'default';
    expect([telling.asks({ seconds_left: 300 }), telling.asks({ seconds_left: 20 }), telling.asks({ seconds_left: null })]).toEqual([true, false, false]);
    telling.never();
    expect(telling.asks({ seconds_left: 300 })).toBe(false);
  });
});
