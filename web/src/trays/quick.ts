import { api, taken, type Recipe } from '../api/client';
import { say } from '../shell/notices.svelte';
import { studio } from '../shell/studio.svelte';
import { count } from '../words/numbers';
import { trayName, type Dropped } from './dropped';
import { uploads } from './uploads.svelte';

const OFTEN = 400;

function pause(): Promise<void> {
  return new Promise((done) => setTimeout(done, OFTEN));
}

/** Files that were dropped on a recipe: gathered, made by it, downloaded, with nothing else asked. */
export async function makeAtOnce(recipe: Pick<Recipe, 'id' | 'title'>, files: Dropped[]): Promise<void> {
  if (!files.length) {
    say('There is no photo in what you dropped.', { bad: true });
    return;
  }
  const tray = await taken(api.POST('/api/trays', { body: { name: `${trayName(files)}, ${recipe.title}`.slice(0, 120), folders: [] } }));
  const path = { number: tray.id };
  await taken(api.PUT('/api/trays/{number}/recipes', { params: { path }, body: { recipes: [recipe.id] } }));
  await studio.loadTrays();
  say(`Making ${count(files.length, 'photo')} by ${recipe.title}; the download starts by itself`, { link: { to: `/trays/${tray.id}`, text: 'Open the tray' } });
  await uploads.add(tray, files);
  const mine = () => uploads.all.filter((each) => each.tray.id === tray.id);
  while (mine().some((each) => each.state === 'waiting' || each.state === 'sending')) await pause();
  for (let reading = 1; reading; ) {
    const overview = await taken(api.GET('/api/trays/{number}/overview', { params: { path } }));
    reading = overview.states['reading'] ?? 0;
    if (reading) await pause();
  }
  const run = await taken(api.POST('/api/trays/{number}/runs', { params: { path }, body: { again: false } as never }));
  const of = { params: { path: { number: run.id } } };
  let now = await taken(api.GET('/api/runs/{number}', of));
  while (now.counts.open > 0) {
    await pause();
    now = await taken(api.GET('/api/runs/{number}', of));
  }
  const link = { to: `/runs/${run.id}`, text: 'Open the run' };
  if (now.counts.asking) say(`${count(now.counts.asking, 'rendition')} ${now.counts.asking === 1 ? 'waits' : 'wait'} for your answer`, { link: { to: '/questions', text: 'Answer' } });
  if (now.counts.failed) say(`${count(now.counts.failed, 'rendition')} failed`, { bad: true, link });
  if (now.counts.made) {
    const away = document.createElement('a');
    away.href = `/api/runs/${run.id}/zip`;
    away.download = '';
    away.click();
    say(`Made ${count(now.counts.made, 'file')} by ${recipe.title}`, { link });
  }
}
