import { afterEach, describe, expect, it, vi } from 'vitest';
import { escape, onEscape } from './escape';
import { letters, pageKey } from './keys.svelte';

afterEach(() => {
  document.body.innerHTML = '';
  letters.set(true);
});

/** What a page would act on when this key is pressed on the first element of `html`. */
function pressed(key: string, html = '<div></div>', how: KeyboardEventInit = {}): string | undefined {
  document.body.innerHTML = html;
  let found: string | undefined;
  const listen = (event: KeyboardEvent) => (found = pageKey(event));
  addEventListener('keydown', listen);
  const target = document.body.querySelector('[data-here]') ?? document.body.firstElementChild;
  target?.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, ...how }));
  removeEventListener('keydown', listen);
  return found;
}

describe('keys of the page', () => {
  it.each([
    ['m', '<div></div>', 'm'],
    ['M', '<div></div>', 'm'],
    ['m', '<input type="text">', undefined],
    ['m', '<textarea></textarea>', undefined],
    ['m', '<select></select>', undefined],
    ['m', '<button></button>', 'm'],
    ['m', '<input type="checkbox">', 'm'],
    ['ArrowDown', '<button></button>', 'ArrowDown'],
    ['ArrowDown', '<input type="radio">', undefined],
    ['ArrowLeft', '<div role="slider"></div>', undefined],
    ['Enter', '<button></button>', undefined],
    ['Enter', '<a href="/"></a>', undefined],
    [' ', '<button></button>', undefined],
    [' ', '<div></div>', ' '],
    ['Escape', '<div></div>', 'Escape'],
    ['m', '<div class="bx--modal"><p data-here></p></div>', undefined],
    ['m', '<ul role="menu"><li data-here></li></ul>', undefined],
  ])('%s on %s is %s', (key, html, wanted) => expect(pressed(key, html)).toBe(wanted));

  it('leave combinations to the browser', () => {
    expect(pressed('m', '<div></div>', { ctrlKey: true })).toBeUndefined();
    expect(pressed('m', '<div></div>', { altKey: true })).toBeUndefined();
  });

  it('can be switched off where they are single letters', () => {
    letters.set(false);
    expect(pressed('m')).toBeUndefined();
    expect(pressed('+')).toBeUndefined();
    expect(pressed('ArrowDown')).toBe('ArrowDown');
    expect(pressed('Enter')).toBe('Enter');
  });
});

describe('Escape', () => {
  const press = (target: EventTarget = document.body) => {
    const event = new KeyboardEvent('keydown', { key: 'Escape', bubbles: true, cancelable: true });
    target.dispatchEvent(event);
    escape(event);
  };

  it('closes the innermost alone, and asks the next one out where there is nothing to close', () => {
    const [page, selection, menu] = [vi.fn(), vi.fn(() => false), vi.fn()];
    const off = [page, selection, menu].map(onEscape);
    press();
    expect([page, selection, menu].map((each) => each.mock.calls.length)).toEqual([0, 0, 1]);
    off[2]?.();
    press();
    expect([page, selection].map((each) => each.mock.calls.length)).toEqual([1, 1]);
    off.forEach((each) => each());
    press();
    expect(page).toHaveBeenCalledTimes(1);
  });

  it('leaves a field first', () => {
    const page = vi.fn();
    const off = onEscape(page);
    document.body.innerHTML = '<input type="text">';
    const field = document.body.firstElementChild as HTMLInputElement;
    field.focus();
    press(field);
    expect(document.activeElement).not.toBe(field);
    expect(page).not.toHaveBeenCalled();
    press();
    expect(page).toHaveBeenCalledTimes(1);
    off();
  });
});
