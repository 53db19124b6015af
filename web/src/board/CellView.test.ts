import { cleanup, fireEvent, render, screen } from '@testing-library/svelte';
import { describe, expect, it, vi } from 'vitest';
import type { Cell, Photo } from '../api/client';
import CellView from './CellView.svelte';

const photo = { id: 3, name: 'hall.jpg', alpha: false, digest: 'abc', width: 3000, height: 2000 } as Photo;
const cell: Cell = {
  recipe: 7,
  version: 12,
  width: 1600,
  height: 1067,
  name: '2031-10-15_04_hall-longcase-001.jpg',
  folder: 'museum-site',
  warnings: [],
  state: 'planned',
  rendition: null,
  bytes: null,
  error: '',
};

function shown(change: Partial<Cell>, more: { focused?: boolean; selected?: boolean } = {}) {
  const onpress = vi.fn();
  const onopen = vi.fn();
  render(CellView, { photo, cell: { ...cell, ...change }, focused: false, selected: false, onpress, onopen, ...more });
  return { element: screen.getByRole('gridcell'), onpress, onopen };
}

describe('a cell', () => {
  it('shows the rendition in its true shape, its pixels, name and state', () => {
    const { element } = shown({});
    const image = element.querySelector('img');
    expect(image?.getAttribute('src')).toBe('/api/pictures/cells/3/12?edge=280&d=abc');
    expect(Number.parseFloat(image?.style.width ?? '') / Number.parseFloat(image?.style.height ?? '')).toBeCloseTo(1600 / 1067, 2);
    expect(element).toHaveTextContent('1600 × 1067');
    expect(element.querySelector('.name')).toHaveTextContent('2031-10-15_04_hall-longcase-001.jpg');
    expect(screen.getByRole('img', { name: 'planned' })).toBeInTheDocument();
  });

  it('says its weight once it is made, and what to know before', () => {
    expect(shown({ state: 'done', bytes: 127_400 }).element).toHaveTextContent(/127.kB/);
    cleanup();
    const { element } = shown({ warnings: [{ label: 'not enlarged', text: 'The photo is only 640 × 427.' }] });
    expect(element).toHaveTextContent('not enlarged');
    expect(screen.getByTitle('The photo is only 640 × 427.')).toBeInTheDocument();
  });

  it('says that it failed and why', () => {
    const { element } = shown({ state: 'failed', error: 'hall.jpg: expected a file, found nothing.' });
    expect(screen.getByTitle('hall.jpg: expected a file, found nothing.')).toHaveTextContent('failed');
    expect(element).toHaveClass('failed');
  });

  it('is chosen and opened', async () => {
    const { element, onpress, onopen } = shown({ state: 'excluded' }, { focused: true, selected: true });
    expect(element).toHaveAttribute('aria-selected', 'true');
    expect(element).toHaveAttribute('tabindex', '0');
    expect(element).toHaveTextContent('left out');
    await fireEvent.click(element);
    await fireEvent.dblClick(element);
    expect(onpress).toHaveBeenCalledOnce();
    expect(onopen).toHaveBeenCalledOnce();
  });
});
