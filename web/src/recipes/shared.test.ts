import { fireEvent, render, screen, waitFor, within } from '@testing-library/svelte';
import userEvent from '@testing-library/user-event';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { resync } from '../api/live';
import { notices } from '../shell/notices.svelte';
import { undo } from '../shell/undo.svelte';
import { Refusal, server } from '../test/server';
import Marks from './Marks.svelte';
import Things from './Things.svelte';

vi.mock('../api/client', async (original) => ({ ...(await original<object>()), api: (await import('../test/server')).server.api }));

const PUT = 'PUT /api/parts/{number}';
const used = [{ id: 7, title: 'Gridwick' }, { id: 9, title: 'Journal' }];
const credit = { id: 3, station: 'finish', name: 'Credit line', setting: { marks: [{ text: '© {creator}', size: 3 }] } as Record<string, unknown>, version: 2, used };
const edge = { id: 4, station: 'size', name: 'Long edge', setting: { by: 'long-edge', pixels: 1600 } as Record<string, unknown>, version: 1, used: [] as typeof used };
let parts = [credit, edge];

beforeEach(() => {
  parts = [credit, edge];
  notices.all = [];
  undo.clear();
  server.knows({
    'GET /api/parts': () => parts,
    'GET /api/profiles': [{ name: 'coated.icc', title: 'Coated', space: 'CMYK', own: true, used: ['Press'] }, { name: 'srgb', title: 'sRGB', space: 'RGB', own: false, used: [] }],
    'GET /api/marks': [{ name: 'gear.svg', kind: 'picture', used: ['Credit line'] }, { name: 'Quill.ttf', kind: 'font', used: [] }],
    'GET /api/parts/{number}/versions': [{ number: 2, made: '2031-10-15T09:00:00Z', setting: credit.setting }, { number: 1, made: '2031-10-14T09:00:00Z', setting: { marks: [{ text: 'Museum' }] } }],
    [PUT]: ({ path, body }) => {
      const given = body as { name?: string; setting?: Record<string, unknown>; version?: number };
      parts = parts.map((part) => (part.id === path['number'] ? { ...part, name: given.name ?? part.name, setting: given.setting ?? part.setting, version: part.version + (given.setting ? 1 : 0) } : part));
      return parts;
    },
    'DELETE /api/parts/{number}': ({ path }) => {
      parts = parts.filter((part) => part.id !== path['number']);
      return {};
    },
  });
});
const said = () => notices.all.at(-1)?.text;

describe('parts and profiles that recipes share', () => {
  const item = (name: string) => screen.getByText(name).closest('li') as HTMLElement;

  it('are listed with what they say and who uses them', async () => {
    render(Things);
    await screen.findByText('Credit line');
    expect(item('Credit line')).toHaveTextContent('in Gridwick, Journal');
    expect(item('Long edge')).toHaveTextContent('by long-edge, pixels 1600');
    expect(item('Long edge')).toHaveTextContent('not used');
    expect(item('coated.icc')).toHaveTextContent('Coated, for CMYK inks: TIFF, JPEG and PDF');
    expect(within(item('srgb')).queryByRole('button')).toBeNull(); // it comes with the product
  });

  it('are renamed in place by Enter, once, and by nothing else that is typed', async () => {
    render(Things);
    const user = userEvent.setup();
    await user.click(await screen.findByRole('button', { name: 'Rename Long edge' }));
    const field = screen.getByLabelText('Name of the part');
    expect(field).toHaveFocus();
    await user.clear(field);
    await user.type(field, '  Longest edge {Enter}');
    await fireEvent.blur(field); // browsers do, when it goes
    await waitFor(() => expect(screen.getByText('Longest edge')).toBeInTheDocument());
    expect(server.bodies(PUT)).toEqual([{ name: 'Longest edge' }]);
    expect(undo.steps.map((step) => step.what)).toEqual(['renamed Long edge']);
  });

  it('keep their names where the field was emptied or left as it was', async () => {
    render(Things);
    const user = userEvent.setup();
    for (const text of ['   ', 'Long edge']) {
      await user.click(await screen.findByRole('button', { name: 'Rename Long edge' }));
      const field = screen.getByLabelText('Name of the part');
      await user.clear(field);
      await user.type(field, `${text}{Enter}`);
      expect(await screen.findByText('Long edge')).toBeInTheDocument();
    }
    expect(server.bodies(PUT)).toEqual([]);
  });

  it('are deleted, and recipes that used them keep what they said', async () => {
    render(Things);
    await userEvent.setup().click(await screen.findByRole('button', { name: 'Delete Credit line' }));
    await waitFor(() => expect(said()).toBe('Credit line is deleted. 2 recipes kept its setting.'));
    expect(screen.queryByText('Credit line')).toBeNull();
  });

  it('stay where the server refuses, with its reason', async () => {
    server.on('DELETE /api/profiles/{name}', () => { throw new Refusal(409, { detail: 'Press uses this profile. Choose another one there first.' }); });
    render(Things);
    await userEvent.setup().click(await screen.findByRole('button', { name: 'Delete coated.icc' }));
    await waitFor(() => expect(said()).toBe('Press uses this profile. Choose another one there first.'));
    expect(screen.getByText('coated.icc')).toBeInTheDocument();
  });
});

describe('the page of marks', () => {
  async function opened() {
    render(Marks);
    await screen.findByRole('heading', { name: 'Credit line' });
    return userEvent.setup();
  }

  it('shows each on three grounds, as it is now, and no other kinds of parts', async () => {
    await opened();
    expect(screen.queryByText('Long edge')).toBeNull();
    const pictures = ['light', 'dark', 'busy'].map((ground) => screen.getByAltText(`Credit line on a ${ground} picture`).getAttribute('src'));
    expect(pictures).toEqual(['light', 'dark', 'busy'].map((ground) => `/api/parts/3/on/${ground}?version=2`));
  });

  it('keeps a change for all recipes only when it is told to', async () => {
    const user = await opened();
    await user.click(screen.getByRole('button', { name: 'Change Credit line' }));
    const field = await screen.findByDisplayValue('© {creator}');
    await user.clear(field);
    await user.type(field, 'Quillmarsh');
    await fireEvent.blur(field);
    expect(server.bodies(PUT)).toEqual([]);
    await user.click(await screen.findByRole('button', { name: 'Keep for all its recipes' }));
    await waitFor(() => expect(server.bodies(PUT)).toEqual([{ setting: { marks: [{ text: 'Quillmarsh', size: 3 }] }, version: 2 }]));
    await waitFor(() => expect(screen.queryByRole('button', { name: 'Keep for all its recipes' })).toBeNull());
  });

  it('restores what it said before, over the version that is shown', async () => {
    const user = await opened();
    await user.click(screen.getByRole('button', { name: 'Change Credit line' }));
    await user.click(await screen.findByRole('button', { name: 'Restore version 1 of Credit line' }));
    await waitFor(() => expect(server.bodies(PUT)).toEqual([{ setting: { marks: [{ text: 'Museum' }] }, version: 2 }]));
    expect(undo.steps.at(-1)?.what).toBe('restored version 1 of Credit line');
  });

  it('restores over the newest version that it shows, where the list of versions came after a redo and the mark did not yet', async () => {
    const versions = [3, 1].map((number) => ({ number, made: '2031-10-15T09:00:00Z', setting: { marks: [{ text: number === 3 ? 'Newest' : 'Museum' }] } }));
    server.on('GET /api/parts/{number}/versions', versions);
    const user = await opened();
    await user.click(screen.getByRole('button', { name: 'Change Credit line' }));
    await user.click(await screen.findByRole('button', { name: 'Restore version 1 of Credit line' }));
    await waitFor(() => expect(server.bodies(PUT)).toEqual([{ setting: { marks: [{ text: 'Museum' }] }, version: 3 }]));
  });

  it('makes one mark of a double press, and opens it', async () => {
    server.on('POST /api/parts/again', ({ body }) => {
      const { name, setting } = body as { name: string; setting: Record<string, unknown> };
      parts = [...parts, { ...credit, id: 12, name, setting, used: [] }];
      return parts;
    });
    const user = await opened();
    await user.dblClick(screen.getByRole('button', { name: 'New mark' }));
    expect(await screen.findByRole('heading', { name: 'Credit line 2' })).toBeInTheDocument();
    expect(server.bodies('POST /api/parts/again')).toHaveLength(1);
    expect(screen.getByRole('button', { name: 'Close Credit line 2' })).toHaveAttribute('aria-expanded', 'true');
  });

  it('shows what was made, though an older answer comes after it', async () => {
    server.on('POST /api/parts/again', ({ body }) => {
      parts = [...parts, { ...credit, id: 12, name: (body as { name: string }).name, used: [] }];
      return parts;
    });
    const user = await opened();
    let answer: (files: object[]) => void = () => undefined;
    server.on('GET /api/marks', () => new Promise((done) => (answer = done)));
    resync(); // the parts are told at once, the files not yet
    await waitFor(() => expect(server.asked.filter((each) => each.call === 'GET /api/marks')).toHaveLength(2));
    await user.click(screen.getByRole('button', { name: 'New mark' }));
    await screen.findByRole('heading', { name: 'Credit line 2' });
    answer([]);
    expect(await screen.findByText(/^None of your own/)).toBeInTheDocument();
    expect(screen.getByRole('heading', { name: 'Credit line 2' })).toBeInTheDocument();
  });

  it('lists the fonts and pictures that marks are made of', async () => {
    await opened();
    expect(screen.getByAltText('gear.svg on dark ground')).toHaveAttribute('src', '/api/marks/gear.svg/picture');
    expect(screen.getByText('Quill.ttf').closest('li')).toHaveTextContent('a font for texts over pictures');
  });
});
