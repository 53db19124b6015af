import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { connection } from './connection.svelte';
import { escape, onEscape } from './escape';
import { busy, notices, say, trying } from './notices.svelte';
import { follow, router } from './router.svelte';

beforeEach(() => {
  vi.useFakeTimers();
  notices.all = [];
});
afterEach(() => vi.useRealTimers());

function pressed(from: Element = document.body): KeyboardEvent {
  const event = new KeyboardEvent('keydown', { key: 'Escape', bubbles: true, cancelable: true });
  from.addEventListener('keydown', (heard) => escape(heard as KeyboardEvent), { once: true });
  from.dispatchEvent(event);
  return event;
}

describe('Escape', () => {
  it('closes what was opened last, and asks the next one out where there is nothing to close', () => {
    const closed: string[] = [];
    let chosen = true;
    const offs = [
      onEscape(() => void closed.push('page')),
      onEscape(() => {
        if (!chosen) return false;
        chosen = false;
        closed.push('selection');
        return true;
      }),
    ];
    const panel = onEscape(() => void closed.push('panel'));
    pressed();
    panel();
    pressed();
    pressed();
    expect(closed).toEqual(['panel', 'selection', 'page']);
    offs.forEach((off) => off());
    expect(pressed().defaultPrevented).toBe(false);
  });

  it('leaves a field first', () => {
    const close = vi.fn();
    const off = onEscape(close);
    const field = document.body.appendChild(document.createElement('input'));
    field.focus();
    expect(pressed(field).defaultPrevented).toBe(true);
    expect([document.activeElement, close.mock.calls.length]).toEqual([document.body, 0]);
    field.remove();
    off();
  });
});

describe('notices', () => {
  it('count what is said again, keep the newest three, and go by themselves, bad ones later', () => {
    say('Archived Shop');
    say('Archived Shop');
    expect(notices.all.map((each) => [each.text, each.times])).toEqual([['Archived Shop', 2]]);
    ['one', 'two'].forEach((text) => say(text));
    say('The file is gone', { bad: true });
    expect(notices.all.map((each) => each.text)).toEqual(['one', 'two', 'The file is gone']);
    vi.advanceTimersByTime(4100);
    expect(notices.all.map((each) => each.text)).toEqual(['The file is gone']);
    vi.advanceTimersByTime(8000);
    expect(notices.all).toEqual([]);
  });

  it('tell what went wrong, and that something takes long', async () => {
    let finish: () => void = () => undefined;
    const quick = trying(() => Promise.resolve());
    await quick;
    expect(busy.long).toBe(0);
    const slow = trying(() => new Promise((_, fail) => (finish = () => fail(new Error('No room is left')))));
    vi.advanceTimersByTime(350);
    expect(busy.long).toBe(1);
    finish();
    await slow;
    expect([busy.long, notices.all[0]?.text, notices.all[0]?.bad]).toEqual([0, 'No room is left', true]);
  });
});

describe('the connection', () => {
  it('is lost only when it stays away', () => {
    connection.failed();
    vi.advanceTimersByTime(1000);
    connection.came();
    vi.advanceTimersByTime(2000);
    expect(connection.lost).toBe(false);
    connection.failed();
    connection.failed();
    vi.advanceTimersByTime(1600);
    expect(connection.lost).toBe(true);
    connection.came();
    expect(connection.lost).toBe(false);
  });
});

describe('the address', () => {
  it('has parts and a query, and a step back only where a page is another one', () => {
    const before = history.length;
    router.go('/trays/3?sort=name');
    expect([router.parts, router.query]).toEqual([['trays', '3'], '?sort=name']);
    router.go('/trays/3?sort=name');
    router.go('/trays/3?sort=weight', true);
    expect([router.query, history.length]).toEqual(['?sort=weight', before + 1]);
  });

  it.each([
    ['<a href="/recipes">', {}, '/recipes', true],
    ['<a href="/recipes">', { ctrlKey: true }, '/', false],
    ['<a href="/api/recipes/1/file" download>', {}, '/', false],
    ['<a href="/sign-out">', {}, '/', false],
    ['<a href="https://museum.example/">', {}, '/', false],
    ['<a href="/runs" target="_blank">', {}, '/', false],
  ])('follows %s with %o to %s', (html, how, to, followed) => {
    router.go('/', true);
    document.body.innerHTML = html;
    const event = new MouseEvent('click', { bubbles: true, cancelable: true, ...how });
    document.body.addEventListener('click', (heard) => {
      follow(heard);
      heard.preventDefault(); // the test's page goes nowhere
    }, { once: true });
    const stopped = vi.spyOn(event, 'preventDefault');
    document.querySelector('a')?.dispatchEvent(event);
    expect([location.pathname, stopped.mock.calls.length === 2]).toEqual([to, followed]);
  });
});
