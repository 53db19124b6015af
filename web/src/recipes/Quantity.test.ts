import { render, screen } from '@testing-library/svelte';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';
import Quantity from './Quantity.svelte';

const about = { label: 'Quality', min: 1, max: 100 };

describe('a quantity', () => {
  it('gives numbers as numbers and anything else as typed', async () => {
    const onchange = vi.fn();
    render(Quantity, { ...about, value: 8, onchange });
    const field = screen.getByRole('textbox', { name: 'Quality' });
    await userEvent.type(field, '4');
    expect(onchange).toHaveBeenLastCalledWith(84);
    await userEvent.type(field, 'x');
    expect(onchange).toHaveBeenLastCalledWith('84x');
  });

  it('explains what is wrong beside the field and says what is allowed', () => {
    render(Quantity, { ...about, value: '84x', problem: 'Expected a whole number, found ‘84x’.', onchange: vi.fn() });
    const field = screen.getByRole('textbox', { name: 'Quality' });
    expect(field).toHaveValue('84x');
    expect(field).toBeInvalid();
    expect(screen.getByRole('alert')).toHaveTextContent('Between 1 and 100.');
    expect(field).toHaveAccessibleDescription(/found ‘84x’/);
  });

  it('has a slider beside it, where one makes sense', () => {
    const { unmount } = render(Quantity, { ...about, value: 84, onchange: vi.fn() });
    expect(screen.getByRole('slider')).toHaveValue('84');
    unmount();
    render(Quantity, { ...about, value: 84, slider: false, onchange: vi.fn() });
    expect(screen.queryByRole('slider')).toBeNull();
  });
});
