import { render, screen, waitFor } from '@testing-library/svelte';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';
import Choice from '../recipes/Choice.svelte';
import Actions from './Actions.svelte';
import Pick from './Pick.svelte';
import Range from './Range.svelte';

describe('a menu', () => {
  it('is gone through by arrows, does what is chosen, and gives the focus back', async () => {
    const done = vi.fn();
    render(Actions, { label: 'Choose…', actions: [{ text: 'Portraits', do: vi.fn() }, { text: 'Squares', do: done }] });
    const user = userEvent.setup();
    const trigger = screen.getByRole('button', { name: 'Choose…' });
    await user.click(trigger);
    await waitFor(() => expect(screen.getByRole('menuitem', { name: 'Portraits' })).toHaveFocus());
    await user.keyboard('{ArrowDown}{Enter}');
    expect(done).toHaveBeenCalledTimes(1);
    await waitFor(() => expect(screen.queryByRole('menu')).toBeNull());
    expect(trigger).toHaveFocus();
    await user.click(trigger);
    await user.keyboard('{Escape}');
    await waitFor(() => expect(screen.queryByRole('menu')).toBeNull());
    expect(trigger).toHaveFocus();
  });
});

describe('a list of choices', () => {
  it('is named, tells what is chosen, and lets go of the keys', async () => {
    const onchange = vi.fn();
    render(Pick, { label: 'Shape', value: '', options: [['', 'every shape'], ['portrait', 'portrait']], onchange });
    const field = screen.getByLabelText('Shape');
    await userEvent.selectOptions(field, 'portrait');
    expect(onchange).toHaveBeenCalledWith('portrait');
    expect(field).not.toHaveFocus();
  });
});

describe('a choice of few', () => {
  it('is a group of radio buttons, which arrows go through', async () => {
    const onchange = vi.fn();
    render(Choice, { label: 'Format', value: 'jpeg', options: [['jpeg', 'JPEG'], ['webp', 'WebP'], ['avif', 'AVIF']], onchange });
    expect(screen.getByRole('radio', { name: 'JPEG' })).toBeChecked();
    await userEvent.click(screen.getByRole('radio', { name: 'AVIF' }));
    expect(onchange).toHaveBeenLastCalledWith('avif');
    expect(screen.getByRole('group', { name: 'Format' })).toBeInTheDocument();
  });
});

describe('a slider', () => {
  it('moves by arrows, in its own steps, and stays between its ends', async () => {
    const onchange = vi.fn();
    render(Range, { label: 'Straighten', value: 14.9, min: -15, max: 15, step: 0.1, onchange });
    const slider = screen.getByRole('slider');
    slider.focus();
    await userEvent.keyboard('{ArrowRight}{ArrowRight}');
    expect(onchange.mock.calls.flat().every((value) => value <= 15)).toBe(true);
    expect(onchange).toHaveBeenCalledWith(15);
    await userEvent.keyboard('{Home}');
    expect(onchange).toHaveBeenLastCalledWith(-15);
  });
});
