import { render, screen } from '@testing-library/svelte';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';
import { BLANK, framedBy, measuredBy, station, type Content } from './draft';
import FrameControls from './FrameControls.svelte';
import type { LineState } from './line.svelte';
import { shelved } from './shelves';
import SizeControls from './SizeControls.svelte';

function lineOf(content: Content, problems: Record<string, string> = {}) {
  const change = vi.fn<(content: Content) => void>();
  return { line: { content, problems, change } as unknown as LineState, change };
}

const last = (change: ReturnType<typeof vi.fn>): Content => change.mock.calls.at(-1)?.[0] as Content;

describe('the controls of the frame', () => {
  it('offer only what the way of framing has', () => {
    const { unmount } = render(FrameControls, lineOf(BLANK));
    expect(screen.queryByLabelText('Shape, typed')).toBeNull();
    expect(screen.queryByLabelText('Anchor')).toBeNull();
    unmount();
    render(FrameControls, lineOf(framedBy(BLANK, 'bounds')));
    expect(screen.getByLabelText('Narrowest')).toHaveValue('4:5');
    expect(screen.getByLabelText('Anchor')).toBeInTheDocument();
  });

  it('take a shape by hand, a place, a ground', async () => {
    const { line, change } = lineOf(framedBy(BLANK, 'pad'));
    render(FrameControls, { line });
    const user = userEvent.setup();
    await user.click(screen.getByRole('button', { name: '9 : 16' }));
    expect(station(last(change), 'frame')).toMatchObject({ way: 'pad', shape: '9:16' });
    await user.click(screen.getByRole('button', { name: 'bottom right' }));
    expect(station(last(change), 'frame')).toMatchObject({ anchor: 'bottom-right' });
    await user.click(screen.getByRole('button', { name: 'blurred copy' }));
    expect(station(last(change), 'frame')).toMatchObject({ fill: 'blur' });
    await user.type(screen.getByLabelText('Shape, typed'), '920 × 640');
    expect(station(last(change), 'frame')?.['shape']).not.toContain('×');
  });

  it('cut into panels and put together again', async () => {
    const { line, change } = lineOf(BLANK);
    render(FrameControls, { line });
    const user = userEvent.setup();
    await user.clear(screen.getByLabelText('Panels down'));
    await user.type(screen.getByLabelText('Panels down'), '3');
    expect(station(last(change), 'frame')).toMatchObject({ way: 'keep', panels: { columns: 1 } });
  });

  it('leave the shape to exact pixels', () => {
    render(FrameControls, lineOf(measuredBy(BLANK, 'exact')));
    expect(screen.queryByLabelText('Shape, typed')).toBeNull();
    expect(screen.getByText(/exact pixels that the size station gives/)).toBeInTheDocument();
  });
});

describe('the controls of the size', () => {
  it('give portraits a value of their own, and take it away when it is emptied', async () => {
    const { line, change } = lineOf(BLANK);
    const { unmount } = render(SizeControls, { line });
    const user = userEvent.setup();
    expect(screen.getByLabelText('Pixels')).toHaveValue('1600');
    expect(screen.getByLabelText('Pixels, portrait')).toHaveValue('');
    await user.type(screen.getByLabelText('Pixels, portrait'), '9');
    expect(station(last(change), 'size')).toMatchObject({ pixels: 1600, portrait: { pixels: 9 } });
    unmount();
    const own = lineOf(last(change));
    render(SizeControls, own);
    await user.clear(screen.getByLabelText('Pixels, portrait'));
    expect(station(last(own.change), 'size')).not.toHaveProperty('portrait');
  });

  it('explain what is wrong beside its field and keep what was typed', () => {
    const content = { ...BLANK, size: { by: 'width', pixels: '12o0', portrait: { pixels: 0 }, enlarge: 'never' } };
    const problems = { 'size.pixels': 'Expected a whole number.', 'size.portrait.pixels': 'Expected at least 1.' };
    render(SizeControls, lineOf(content, problems));
    expect(screen.getByLabelText('Pixels')).toHaveValue('12o0');
    expect(screen.getByLabelText('Pixels')).toHaveAttribute('aria-invalid', 'true');
    expect(screen.getAllByRole('alert').map((each) => each.textContent)).toEqual(Object.values(problems));
  });

  it('take several widths, a limit, a tag and a minimum', async () => {
    const { line, change } = lineOf(measuredBy(BLANK, 'widths'));
    render(SizeControls, { line });
    const user = userEvent.setup();
    expect(screen.getByLabelText('Widths')).toHaveValue('480, 960, 1440, 1920');
    await user.clear(screen.getByLabelText('Widths'));
    expect(station(last(change), 'size')).toMatchObject({ widths: [] });
    await user.click(screen.getByRole('radio', { name: 'up to a limit' }));
    expect(station(last(change), 'size')).toMatchObject({ enlarge: 150 });
    await user.type(screen.getByLabelText('Resolution tag'), '3');
    expect(station(last(change), 'size')).toMatchObject({ ppi: 3 });
    await user.type(screen.getByLabelText('Minimum width'), '8');
    expect(station(last(change), 'size')).toMatchObject({ minimum: { width: 8 } });
    await user.click(screen.getByRole('radio', { name: 'in linear light' }));
    expect(station(last(change), 'size')).toMatchObject({ light: 'linear' });
  });
});

describe('shelves', () => {
  it('hold their recipes, in the order in which they appear', () => {
    const all = [
      { shelf: 'Feeds', title: 'a' },
      { shelf: '', title: 'b' },
      { shelf: 'Feeds', title: 'c' },
    ];
    expect(shelved(all).map(([shelf, recipes]) => [shelf, recipes.map((each) => each.title).join('')])).toEqual([
      ['Feeds', 'ac'],
      ['', 'b'],
    ]);
  });
});
