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
    expect(screen.getByRole('alert')).toHaveTextContent('It can be 1 to 100.');
    expect(field).toHaveAccessibleErrorMessage(/found ‘84x’/);
  });

  it('has a slider beside it, which arrows move', async () => {
    const onchange = vi.fn();
    render(Quantity, { ...about, value: 84, onchange });
    const slider = screen.getByRole('slider');
    expect(slider).toHaveAttribute('aria-valuenow', '84');
    slider.focus();
    await userEvent.keyboard('{ArrowRight}');
    expect(onchange).toHaveBeenLastCalledWith(85);
  });
});
