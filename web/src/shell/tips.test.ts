import { cleanup, fireEvent, render, screen } from '@testing-library/svelte';
import { tick } from 'svelte';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { escape } from './escape';
import Tips from './Tips.svelte';
import { placed } from './tips';

describe('where a tip stands', () => {
  const window = { width: 800, height: 600 };
  it('is below, or above where there is no room, and always inside', () => {
    expect(placed({ left: 400, top: 100, above: 80 }, { width: 100, height: 30 }, window)).toEqual({ left: 350, top: 106 });
    expect(placed({ left: 400, top: 590, above: 570 }, { width: 100, height: 30 }, window)).toEqual({ left: 350, top: 534 });
    expect(placed({ left: 10, top: 100 }, { width: 100, height: 30 }, window).left).toBe(6);
    expect(placed({ left: 795, top: 100 }, { width: 100, height: 30 }, window).left).toBe(694);
  });
});

describe('tips', () => {
  let button: HTMLElement;
  beforeEach(() => {
    vi.useFakeTimers();
    cleanup();
    document.body.innerHTML = '<button title="QM4_0117_repair-bench-object.jpg">…object.jpg</button>';
    button = document.querySelector('button')!;
    render(Tips);
  });
  afterEach(() => vi.useRealTimers());

  it('come when a pointer rests, and go with Esc; the words stay where they were', async () => {
    await fireEvent.pointerOver(button);
    expect(screen.queryByRole('tooltip')).toBeNull();
    vi.advanceTimersByTime(500);
    await tick();
    expect(document.querySelector('[role=tooltip]')?.textContent).toBe('QM4_0117_repair-bench-object.jpg');
    expect(button.getAttribute('aria-describedby')).toBe('tip');
    expect(button.hasAttribute('title')).toBe(false);
    escape(new KeyboardEvent('keydown', { key: 'Escape' }));
    await tick();
    expect(document.querySelector('[role=tooltip]')).toBeNull();
    expect(button.title).toBe('QM4_0117_repair-bench-object.jpg');
    expect(button.hasAttribute('aria-describedby')).toBe(false);
  });

  it('leave a name to what had none but its title', async () => {
    button.textContent = '';
    vi.spyOn(button, 'matches').mockReturnValue(true);
    await fireEvent.focusIn(button);
    expect(button.getAttribute('aria-label')).toBe('QM4_0117_repair-bench-object.jpg');
    await fireEvent.focusOut(button);
    expect(button.hasAttribute('aria-label')).toBe(false);
    expect(button.title).toBe('QM4_0117_repair-bench-object.jpg');
  });

  it('come at once where keys went, and go with the focus', async () => {
    vi.spyOn(button, 'matches').mockReturnValue(true);
    await fireEvent.focusIn(button);
    expect(document.querySelector('[role=tooltip]')).not.toBeNull();
    await fireEvent.focusOut(button);
    expect(document.querySelector('[role=tooltip]')).toBeNull();
  });
});
