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
  key: 'k1',
  canvas: { width: 1600, height: 1067 },
  columns: 1,
  rows: 1,
  parts: 1,
  narrowest: 1600,
  about: true,
  framing: null,
  strength: null,
  renditions: [],
  name: '2031-10-15_04_hall-longcase-001.jpg',
  folder: 'museum-site',
  warnings: [],
  state: 'planned',
  bytes: 96_000,
  error: '',
};

function shown(change: Partial<Cell>, more: { focused?: boolean; selected?: boolean } = {}) {
  const onpress = vi.fn();
  const onopen = vi.fn();
  render(CellView, { photo, cell: { ...cell, ...change }, focused: false, selected: false, onpress, onopen, ...more });
  return { element: screen.getByRole('gridcell'), onpress, onopen };
}

vi.mock('../ui/thumbs', () => ({
  thumb: (wanted: Record<string, unknown>, done: (address: string) => void) => {
    done(`blob:${JSON.stringify(wanted)}`);
    return () => undefined;
  },
}));

describe('a cell', () => {
  it('asks for its picture by photo, version and key', async () => {
    const { element } = shown({});
    await vi.waitFor(() => expect(element.querySelector('img')?.getAttribute('src')).toContain('"photo":3,"version":12'));
    expect(element.querySelector('img')?.getAttribute('src')).toContain('"key":"k1"');
  });

  it('shows the rendition in its true shape, its pixels, name and state', () => {
    const { element } = shown({});
    const image = element.querySelector('img');
    expect(Number.parseFloat(image?.style.width ?? '') / Number.parseFloat(image?.style.height ?? '')).toBeCloseTo(1600 / 1067, 2);
    expect(element).toHaveTextContent('1600 × 1067');
    expect(element.querySelector('.name')).toHaveTextContent('2031-10-15_04_hall-longcase-001.jpg');
    expect(screen.getByRole('img', { name: 'planned' })).toBeInTheDocument();
  });

  it('says its weight once it is made, and what to know before', () => {
    const done = shown({ state: 'done', bytes: 127_400, about: false }).element;
    expect(done).toHaveTextContent(/127.kB/);
    expect(done).not.toHaveTextContent('≈');
    cleanup();
    const { element } = shown({ warnings: [{ code: 'smaller', label: 'own size', text: 'The photo is only 640 × 427.' }] });
    expect(element).toHaveTextContent('own size');
    expect(element).toHaveTextContent(/≈96.kB/);
    expect(screen.getAllByTitle('The photo is only 640 × 427.')[0]).toBeInTheDocument();
  });

  it('shows six panels as one picture that is cut five times', () => {
    const { element } = shown({ columns: 6, rows: 1, parts: 6, width: 1080, height: 1080, canvas: { width: 6480, height: 1080 } });
    expect(element.querySelectorAll('svg[preserveAspectRatio=none] path')).toHaveLength(5);
    expect(element).toHaveTextContent('6 of 1080×1080');
    const image = element.querySelector('img');
    expect(Number.parseFloat(image?.style.width ?? '') / Number.parseFloat(image?.style.height ?? '')).toBeCloseTo(6, 1);
  });

  it('says that it needs a crop', () => {
    const { element } = shown({ state: 'eye', warnings: [{ code: 'eye', label: 'place the crop', text: 'Open it.' }] });
    expect(element).toHaveClass('eye');
    expect(element).toHaveTextContent('place the crop');
    expect(screen.getByRole('img', { name: 'needs a crop' })).toBeInTheDocument();
  });

  it('says that it failed and why', () => {
    const { element } = shown({ state: 'failed', error: 'hall.jpg: expected a file, found nothing.' });
    expect(screen.getByTitle('hall.jpg: expected a file, found nothing.')).toHaveTextContent('failed');
    expect(element).toHaveClass('failed');
  });

  it('tells a sharpness of its own, as long as it is not left out', () => {
    expect(shown({ strength: 140 }).element).toHaveTextContent('sharp 140 %');
    cleanup();
    expect(shown({ strength: 0 }).element).toHaveTextContent('sharp 0 %');
    cleanup();
    expect(shown({}).element).not.toHaveTextContent('sharp');
    cleanup();
    expect(shown({ strength: 140, state: 'excluded' }).element).not.toHaveTextContent('sharp');
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
