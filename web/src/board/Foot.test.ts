import { render, screen } from '@testing-library/svelte';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';
import type { BoardState } from './board.svelte';
import Foot from './Foot.svelte';

const none = { cells: 0, hidden: 0, photos: 0, whole: false, unread: 0, renditions: 0, to_make: 0, open: 0, made: 0, excluded: 0, eye: 0, about: 0 };

function foot(counts: Partial<typeof none> | undefined, more: Record<string, unknown> = {}, sure = false) {
  const board = {
    counts: counts && { ...none, ...counts },
    size: counts?.cells ?? 0,
    hidden: counts?.hidden ?? 0,
    filtered: false,
    photos: [],
    picked: new Map(),
    unreadable: 0,
    focus: { row: 0, column: 0 },
    at: () => undefined,
    ...more,
  } as unknown as BoardState;
  const pressed = { onmake: vi.fn(), oncancel: vi.fn(), oneye: vi.fn() };
  render(Foot, { board, sure, ...pressed });
  return pressed;
}

const make = () => screen.getAllByRole('button').at(-1);

describe('the foot of the board', () => {
  it.each([
    [undefined, 'Counting…', true],
    [{ cells: 9, to_make: 126, renditions: 126 }, 'Make 126 renditions M', false],
    [{ cells: 1, to_make: 1, renditions: 1 }, 'Make 1 rendition M', false],
    [{ cells: 9, excluded: 9 }, 'All left out', true],
    [{ cells: 10_000, eye: 10_000, renditions: 10_000 }, 'Nothing to make', true],
    [{ cells: 4, open: 4, renditions: 4 }, 'Making 4 renditions', true],
    [{ cells: 4, made: 4, renditions: 4 }, 'All made', true],
  ])('says %o as %s', (counts, text, disabled) => {
    foot(counts);
    expect(make()).toHaveTextContent(text);
    expect((make() as HTMLButtonElement).disabled).toBe(disabled);
  });

  it('says what a filter hides of what is chosen', () => {
    foot({ cells: 7, hidden: 161, to_make: 7, renditions: 7 });
    expect(screen.getByText('of 168 chosen shown', { exact: false })).toBeInTheDocument();
    expect(screen.getByRole('button', { name: /Clear selection/ })).toBeInTheDocument();
  });

  it('takes whole rows out of the tray only', () => {
    foot({ cells: 8, whole: false, to_make: 8, renditions: 8 });
    expect(screen.queryByRole('button', { name: /Take out/ })).toBeNull();
  });

  it('asks before much is made', async () => {
    const pressed = foot({ to_make: 126, renditions: 126, about: 19_440_000 }, {}, true);
    expect(screen.getByRole('alert')).toHaveTextContent(/Make 126 renditions.*about 19\.4/);
    await userEvent.click(screen.getByRole('button', { name: /Cancel/ }));
    expect(pressed.oncancel).toHaveBeenCalled();
    await userEvent.click(screen.getByRole('button', { name: /^Make/ }));
    expect(pressed.onmake).toHaveBeenCalledWith(false);
  });
});
