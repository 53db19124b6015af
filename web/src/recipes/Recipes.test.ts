import { render, screen, waitFor, within } from '@testing-library/svelte';
import userEvent from '@testing-library/user-event';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import type { Recipe, Tray } from '../api/client';
import { notices } from '../shell/notices.svelte';
import { router } from '../shell/router.svelte';
import { studio } from '../shell/studio.svelte';
import { undo } from '../shell/undo.svelte';
import { server } from '../test/server';
import Recipes from './Recipes.svelte';
import TakeIn from './TakeIn.svelte';

vi.mock('../api/client', async (original) => ({ ...(await original<object>()), api: (await import('../test/server')).server.api }));

const recipe = (id: number, title: string, shelf = '', archived = false) => ({ id, title, shelf, archived, note: '', size_line: '1,200 px', file_line: 'JPEG', version: 1, content: { title }, sentence: [{ text: `${title} is made.` }], drawing: { canvas: [3, 2], photo: [0, 0, 3, 2] } });
let recipes = [recipe(1, 'Gridwick', 'Feeds'), recipe(2, 'Tall', 'Feeds'), recipe(3, 'Print'), recipe(4, 'Old', '', true)];

beforeEach(() => {
  notices.all = [];
  recipes = [recipe(1, 'Gridwick', 'Feeds'), recipe(2, 'Tall', 'Feeds'), recipe(3, 'Print'), recipe(4, 'Old', '', true)];
  studio.recipes = recipes as unknown as Recipe[];
  router.go('/recipes');
  server.knows({
    'GET /api/recipes': () => recipes,
    'GET /api/recipes/starters': [{ id: 'web', title: 'Web page', note: 'For a page', sentence: [{ text: 'It is made.' }], content: { title: 'Web page' }, drawing: { canvas: [3, 2], photo: [0, 0, 3, 2] } }],
    'GET /api/parts': [],
    'GET /api/profiles': [],
    'GET /api/trays/{number}/board': { recipes: [{ id: 1 }], photos: [] },
    'PUT /api/trays/{number}/recipes': {},
    'PUT /api/recipes/order': ({ body }) => (body as { recipes: number[] }).recipes.map((id) => recipes.find((each) => each.id === id)),
    'POST /api/recipes/{number}/archived': ({ path, body }) => {
      recipes = recipes.map((each) => (each.id === path['number'] ? { ...each, ...(body as object) } : each));
      return {};
    },
    'POST /api/recipes': ({ body }) => {
      const made = { ...recipe(9, (body as { content: { title: string } }).content.title) };
      recipes = [...recipes, made];
      return made;
    },
  });
});

const titles = () => screen.queryAllByRole('article').map((each) => each.querySelector('.title')?.textContent);

describe('the page of recipes', () => {
  it('shows them on their shelves, and the archived ones apart', () => {
    render(Recipes, { tray: undefined });
    expect(titles()).toEqual(['Gridwick', 'Tall', 'Print']);
    expect(screen.getAllByRole('heading', { level: 2 }).map((each) => each.firstChild?.textContent?.trim())).toEqual(expect.arrayContaining(['Feeds', 'No shelf', 'Archived recipes']));
    expect(screen.getByRole('link', { name: 'Give away: Feeds' })).toHaveAttribute('href', '/api/shelves/given?shelf=Feeds');
  });

  it('makes one of a double press, puts it onto the board it comes from, and opens it', async () => {
    const user = userEvent.setup();
    const made = recipe(9, 'Gridwick copy');
    let answer: (made: object) => void = () => undefined;
    server.on('POST /api/recipes', () => new Promise((done) => (answer = done)));
    render(Recipes, { tray: { id: 5 } as Tray });
    await user.dblClick(screen.getByRole('button', { name: 'Duplicate Gridwick' }));
    answer(made);
    await waitFor(() => expect(router.path).toBe('/recipes/9'));
    expect(server.bodies('POST /api/recipes')).toEqual([{ content: { title: 'Gridwick copy' } }]);
    expect(server.bodies('PUT /api/trays/{number}/recipes')).toEqual([{ recipes: [1, 9] }]);
    expect(undo.steps.at(-1)?.what).toBe('made Gridwick copy');
  });

  it('moves one among its shelf’s, past those of other shelves', async () => {
    recipes = [recipe(1, 'Gridwick', 'Feeds'), recipe(3, 'Print'), recipe(2, 'Tall', 'Feeds')];
    studio.recipes = recipes as unknown as Recipe[];
    const user = userEvent.setup();
    render(Recipes, { tray: undefined });
    expect(screen.queryByRole('button', { name: 'Move Gridwick up' })).toBeNull();
    await user.click(screen.getByRole('button', { name: 'Move Tall up' }));
    await waitFor(() => expect(titles()).toEqual(['Tall', 'Gridwick', 'Print']));
    expect(server.bodies('PUT /api/recipes/order')).toEqual([{ recipes: [2, 3, 1] }]);
    expect(undo.steps.at(-1)?.undo).toEqual([{ method: 'PUT', path: '/api/recipes/order', body: { recipes: [1, 3, 2] } }]);
  });

  it('archives one and restores it, each a step that can be undone', async () => {
    const user = userEvent.setup();
    render(Recipes, { tray: undefined });
    await user.click(screen.getByRole('button', { name: 'Archive Print' }));
    await waitFor(() => expect(titles()).toEqual(['Gridwick', 'Tall']));
    expect(undo.steps.at(-1)?.what).toBe('archived Print');
    await user.click(screen.getByRole('button', { name: 'Restore Print' }));
    await waitFor(() => expect(titles()).toContain('Print'));
  });

  it('offers starters where there are none', async () => {
    studio.recipes = [];
    render(Recipes, { tray: undefined });
    expect(await screen.findByText('Web page')).toBeInTheDocument();
    expect(screen.getByText(/^No recipes yet/)).toBeInTheDocument();
  });
});

describe('recipes of a file', () => {
  let looked: object = {};
  let status = 200;
  let asked: [string, FormData][] = [];
  const fresh = { title: 'Feed', state: 'new', sentence: 'Feed is made.', changed: [] };
  const other = { title: 'Print', state: 'differs', sentence: '', changed: ['size: 2,000 px'] };

  beforeEach(() => {
    asked = [];
    status = 200;
    looked = { recipes: [fresh, other], profiles: [] };
    vi.stubGlobal('fetch', async (path: string, how: RequestInit) => {
      asked.push([path, how.body as FormData]);
      const body = path.endsWith('look-into') ? looked : { taken: ['Feed', 'Print'] };
      return Promise.resolve(Response.json(body, { status }));
    });
  });

  async function chosen(onclose = vi.fn()) {
    const user = userEvent.setup();
    const { container } = render(TakeIn, { onclose });
    await user.upload(container.querySelector('input[type=file]') as HTMLInputElement, new File(['{}'], 'shelf.json', { type: 'application/json' }));
    return user;
  }

  it('are looked at before any is taken; mine are kept where nothing else is said', async () => {
    const onclose = vi.fn();
    const user = await chosen(onclose);
    const press = await screen.findByRole('button', { name: 'Take in 1 recipe' });
    expect(screen.getByText(/is here already, and differs/)).toHaveTextContent('size: 2,000 px');
    await user.click(screen.getByLabelText('take theirs as a new version'));
    expect(press).toHaveTextContent('Take in 2 recipes');
    await user.click(press);
    await waitFor(() => expect(onclose).toHaveBeenCalled());
    expect(asked.at(-1)?.[1].get('choices')).toBe('{"Print":"theirs"}');
    expect(notices.all.at(-1)?.text).toBe('Took in 2 recipes');
  });

  it('say which field of which is wrong, and none is taken', async () => {
    status = 422;
    looked = { detail: 'no', fields: [{ field: 'recipes.0.size', expected: 'pixels', found: 'miles', remedy: 'Give pixels.' }] };
    await chosen();
    const told = await screen.findByRole('alert');
    expect(within(told).getByText('recipes.0.size: expected pixels, found miles. Give pixels.')).toBeInTheDocument();
    expect(screen.getByRole('button', { name: 'Take in' })).toBeDisabled();
  });
});
