import { render, screen, waitFor, within } from '@testing-library/svelte';
import userEvent from '@testing-library/user-event';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { notices } from '../shell/notices.svelte';
import { router } from '../shell/router.svelte';
import { Refusal, server } from '../test/server';
import Questions from './Questions.svelte';

vi.mock('../api/client', async (original) => ({ ...(await original<object>()), api: (await import('../test/server')).server.api }));

const ANSWERS = 'POST /api/questions/answers';
const there = { shown: true, width: 1200, height: 800, bytes: 180_000, changed: '2031-10-14T09:00:00Z', ours: false, same: false };
const question = (id: number, kind: string, recipe: number, more: object = {}) => ({
  id, kind, recipe, recipe_title: recipe === 7 ? 'Gridwick' : 'Journal', photo: id * 10, photo_name: `QM_${id}.jpg`, photo_digest: 'd', name: `bench-${id}.jpg`, folder: 'web', version: 1, key: 'k', width: 1200, height: 800, about: 190_000,
  there: kind === 'name' ? there : null, words: kind === 'word' ? ['title'] : [], tray: 4, tray_name: 'Autumn', typed: { alt: 'A clock' }, typed_version: 3, ...more,
});
let asked: ReturnType<typeof question>[] = [];

beforeEach(() => {
  asked = [question(1, 'name', 7), question(2, 'name', 7), question(3, 'name', 9), question(4, 'word', 9), question(5, 'crop', 7)];
  notices.all = [];
  router.go('/questions');
  server.knows({
    'GET /api/questions': ({ query }) => {
      const counts: Record<string, number> = {};
      for (const each of asked) counts[each.kind] = (counts[each.kind] ?? 0) + 1;
      return { questions: asked.filter((each) => !query['kind'] || each.kind === query['kind']), counts, total: 40, made: 35, runs: 2 };
    },
    [ANSWERS]: ({ body }) => {
      const given = body as { questions?: number[]; recipe?: number };
      const answered = asked.filter((each) => each.kind === 'name' && (given.questions?.includes(each.id) ?? (given.recipe === undefined || each.recipe === given.recipe)));
      asked = asked.filter((each) => !answered.includes(each));
      return { answered: answered.length };
    },
  });
});

const left = () => screen.queryAllByRole('article').map((each) => each.getAttribute('aria-label'));
async function opened() {
  render(Questions);
  await waitFor(() => expect(left()).toHaveLength(asked.length));
  return userEvent.setup();
}

describe('questions of runs', () => {
  it('stand by what they ask and by recipe, with what is there and what would come', async () => {
    await opened();
    expect(screen.getAllByRole('heading', { level: 2 }).map((each) => each.textContent)).toEqual(['Name taken · Gridwick', 'Name taken · Journal', 'Word missing · Journal', 'Crop to place · Gridwick']);
    const first = screen.getAllByRole('article')[0] as HTMLElement;
    expect(first).toHaveTextContent('not made here');
    expect(first).toHaveTextContent(/1200 × 800 · about 190.kB/);
    expect(screen.getByText('everything else goes on: 35 of 40 made')).toBeInTheDocument();
  });

  it('are answered by a letter, one by one, down the list', async () => {
    const user = await opened();
    await user.keyboard('n');
    await waitFor(() => expect(left()).toHaveLength(4));
    await user.keyboard('r');
    await waitFor(() => expect(left()).toHaveLength(3));
    expect(server.bodies(ANSWERS)).toEqual([{ answer: 'new-name', questions: [1] }, { answer: 'replace', questions: [2] }]);
  });

  it('are answered for a whole recipe with Shift, and it says how many', async () => {
    const user = await opened();
    await user.keyboard('{Shift>}K{/Shift}');
    await waitFor(() => expect(server.bodies(ANSWERS)).toEqual([{ answer: 'keep', recipe: 7 }]));
    await waitFor(() => expect(notices.all.at(-1)?.text).toBe('Answered 2 questions'));
    expect(left()).toEqual(['bench-3.jpg, Journal', 'bench-4.jpg, Journal', 'bench-5.jpg, Gridwick']);
  });

  it('are answered for all alike by a button of their kind', async () => {
    const user = await opened();
    await user.click(within(screen.getAllByRole('group', { name: 'For all 3 names taken' })[0] as HTMLElement).getByRole('button', { name: 'New names' }));
    await waitFor(() => expect(server.bodies(ANSWERS)).toEqual([{ answer: 'new-name' }]));
  });

  it('take no answer that means nothing for them', async () => {
    const user = await opened();
    await user.keyboard('{ArrowDown}{ArrowDown}{ArrowDown}{ArrowDown}'); // the crop
    await waitFor(() => expect(screen.getAllByRole('article').at(-1)).toHaveAttribute('tabindex', '0'));
    await user.keyboard('nrk');
    expect(server.bodies(ANSWERS)).toEqual([]);
  });

  it('take a missing word, over the version of the words that is shown', async () => {
    server.on('PUT /api/trays/{number}/words', () => {
      asked = asked.filter((each) => each.kind !== 'word');
      return {};
    });
    const user = await opened();
    const field = screen.getByLabelText('title of QM_4.jpg');
    await user.type(field, ' Bracket clock {Enter}');
    await waitFor(() => expect(server.bodies('PUT /api/trays/{number}/words')).toEqual([{ edits: [{ photo: 40, typed: { alt: 'A clock', title: 'Bracket clock' }, version: 3 }] }]));
    await waitFor(() => expect(screen.queryByLabelText('title of QM_4.jpg')).toBeNull());
    expect(server.bodies(ANSWERS)).toEqual([]); // letters typed into a field answer nothing
  });

  it('lead to the bench for a crop', async () => {
    const user = await opened();
    expect(screen.getByRole('link', { name: 'Place the crop' })).toHaveAttribute('href', '/trays/4/bench/50/7');
    await user.keyboard('l');
    await waitFor(() => expect(router.path).toBe('/trays/4/bench/50/7'));
  });

  it('are shown by kind, and an emptied kind stays in view', async () => {
    const user = await opened();
    await user.click(screen.getByRole('button', { name: 'Word missing 1' }));
    await waitFor(() => expect(left()).toEqual(['bench-4.jpg, Journal']));
    expect(screen.getByRole('button', { name: 'Word missing 1' })).toHaveAttribute('aria-pressed', 'true');
  });

  it('stay where an answer was refused, with the reason', async () => {
    server.on(ANSWERS, () => { throw new Refusal(409, { detail: 'Somebody else has answered it.' }); });
    const user = await opened();
    await user.keyboard('n');
    await waitFor(() => expect(notices.all.at(-1)).toMatchObject({ text: 'Somebody else has answered it.', bad: true }));
    expect(left()).toHaveLength(5);
  });

  it('are none when nothing waits', async () => {
    asked = [];
    render(Questions);
    expect(await screen.findByText('Nothing waits for you')).toBeInTheDocument();
  });
});
