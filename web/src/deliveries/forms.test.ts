import { render, screen, waitFor } from '@testing-library/svelte';
import userEvent from '@testing-library/user-event';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { Refusal, server } from '../test/server';
import InletForm from '../inlets/InletForm.svelte';
import type { Recipe } from '../api/client';
import { studio } from '../shell/studio.svelte';
import AccountForm from './AccountForm.svelte';

vi.mock('../api/client', async (original) => ({ ...(await original<object>()), api: (await import('../test/server')).server.api }));

const outlets = [{ id: 3, name: 'Gridwick', content: { uses: [{ use: 'Post' }, { use: 'Story' }] } }];
const account = { id: 8, name: 'Store', kind: 's3', settings: { address: 'https://store', bucket: 'b', user: 'ada' }, secret: true, outlet: 3, use: 'Story', version: 4 };
const wrong = (field: string) => new Refusal(422, { detail: 'no', fields: [{ field, expected: 'a folder that is there', found: '/nowhere', remedy: 'Make it first.' }] });
type Props = Record<string, unknown>;
const shown = (component: typeof AccountForm | typeof InletForm, more: Props) => {
  const onkept = vi.fn();
  render(component as never, { onclose: vi.fn(), onkept, ...more } as never);
  return { user: userEvent.setup(), onkept };
};

beforeEach(() => {
  studio.recipes = [{ id: 1, title: 'Journal', archived: false }, { id: 2, title: 'Old', archived: true }] as Recipe[];
  server.knows({ 'POST /api/accounts': {}, 'PUT /api/accounts/{number}': {}, 'POST /api/inlets': {}, 'PUT /api/inlets/{number}': {} });
});

describe('the form of an account', () => {
  it('asks for what its kind needs, and keeps what was typed for another kind', async () => {
    const { user, onkept } = shown(AccountForm, { account: undefined, outlets });
    await user.type(screen.getByLabelText('Name'), 'Shelf');
    await user.type(screen.getByLabelText('Folder'), '/srv/out');
    expect(screen.queryByLabelText('Secret key')).toBeNull(); // a folder has none
    await user.selectOptions(screen.getByLabelText('It is'), 's3');
    expect(screen.getByLabelText('Bucket')).toBeInTheDocument();
    await user.selectOptions(screen.getByLabelText('It is'), 'folder');
    expect(screen.getByLabelText('Folder')).toHaveValue('/srv/out');
    await user.click(screen.getByRole('button', { name: 'Save the account' }));
    await waitFor(() => expect(onkept).toHaveBeenCalledOnce());
    expect(server.bodies('POST /api/accounts')).toMatchObject([{ name: 'Shelf', kind: 'folder', settings: { path: '/srv/out' }, secret: '', outlet: null, use: '', version: null }]);
  });

  it('leaves a secret as it is where none is typed, and says which version was edited', async () => {
    const { user, onkept } = shown(AccountForm, { account, outlets });
    await user.clear(screen.getByLabelText('Bucket'));
    await user.type(screen.getByLabelText('Bucket'), 'pictures');
    await user.click(screen.getByRole('button', { name: 'Save the account' }));
    await waitFor(() => expect(onkept).toHaveBeenCalledOnce());
    expect(server.bodies('PUT /api/accounts/{number}')).toMatchObject([{ secret: null, settings: { bucket: 'pictures' }, outlet: 3, use: 'Story', version: 4 }]);
  });

  it('says beside its field what is not right, and stays open', async () => {
    const { user, onkept } = shown(AccountForm, { account: undefined, outlets });
    server.on('POST /api/accounts', () => {
      throw wrong('path');
    });
    await user.click(screen.getByRole('button', { name: 'Save the account' }));
    expect(await screen.findByText('Expected a folder that is there, found /nowhere. Make it first.')).toBeInTheDocument();
    expect(screen.getByLabelText('Folder')).toHaveAttribute('aria-invalid', 'true');
    expect(onkept).not.toHaveBeenCalled();
  });
});

describe('the form of an inlet', () => {
  const roots = [{ id: 1, name: 'Photographs' }];

  it('takes the recipes that are ticked, none of the archived, and the usual rules', async () => {
    const { user, onkept } = shown(InletForm, { inlet: undefined, roots });
    await user.type(screen.getByLabelText('Name'), 'Card reader');
    await user.type(screen.getByLabelText('Folder in it'), 'cards');
    expect(screen.queryByLabelText('Old')).toBeNull();
    await user.click(screen.getByLabelText('Journal'));
    await user.click(screen.getByRole('button', { name: 'Save the inlet' }));
    await waitFor(() => expect(onkept).toHaveBeenCalledOnce());
    expect(server.bodies('POST /api/inlets')).toEqual([{ name: 'Card reader', root: 1, path: 'cards', choose: 'fixed', recipes: [1], settle: 3, ignore: '.*\n*.tmp\n*.part\n*.crdownload', after: 'stay', version: null }]);
  });

  it('wants whole seconds, and is not saved with others', async () => {
    const { user } = shown(InletForm, { inlet: undefined, roots });
    const seconds = screen.getByLabelText('Seconds that it stays the same');
    for (const [typed, good] of [['abc', false], ['2.5', false], ['3601', false], ['0', true]] as const) {
      await user.clear(seconds);
      await user.type(seconds, typed);
      const save = screen.getByRole('button', { name: 'Save the inlet' });
      if (good) expect(save).toBeEnabled();
      else expect(save).toBeDisabled();
      expect(screen.queryByText('Expected whole seconds, 0 to 3600.') === null).toBe(good);
    }
  });

  it('warns before files are removed, and explains how recipes are chosen', async () => {
    const { user } = shown(InletForm, { inlet: { id: 4, name: 'Card', root: 1, path: 'cards', choose: 'ask', recipes: [], settle: 3, ignore: '', after: 'stay', version: 2 }, roots });
    expect(screen.getByText(/^What arrives waits on this page/)).toBeInTheDocument();
    await user.click(screen.getByLabelText('by subfolder'));
    expect(screen.getByText(/^The first subfolder names a recipe/)).toBeInTheDocument();
    await user.click(screen.getByLabelText('are removed'));
    expect(screen.getByText(/a file goes once every receipt of it is good/)).toBeInTheDocument();
    await user.click(screen.getByRole('button', { name: 'Save the inlet' }));
    await waitFor(() => expect(server.bodies('PUT /api/inlets/{number}')).toMatchObject([{ choose: 'folder', after: 'remove', version: 2 }]));
  });
});
