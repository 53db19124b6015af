import { describe, expect, it } from 'vitest';
import { studio } from '../shell/studio.svelte';
import { filesPicked, isPicture, trayName } from './dropped';

studio.me = { user: 'ada', studio: 'Museum', demo: true, upload_bytes: 1, output: '', extensions: ['.jpg', '.tiff', '.nef'] };

function picked(...paths: string[]): FileList {
  const files = paths.map((path) => {
    const file = new File(['x'], path.split('/').at(-1) ?? '');
    Object.defineProperty(file, 'webkitRelativePath', { value: path.includes('/') ? path : '' });
    return file;
  });
  return files as unknown as FileList;
}

describe('dropped files', () => {
  it('takes pictures out of a folder, and whatever was named outright', () => {
    const files = filesPicked(picked('shoot/a.jpg', 'shoot/notes.txt', 'shoot/.hidden.jpg', 'readme.txt'));
    expect(files.map(({ path }) => path)).toEqual(['shoot/a.jpg', 'readme.txt']);
  });

  it('knows pictures by name only where a folder is searched', () => {
    expect(isPicture('A.TIFF')).toBe(true);
    expect(isPicture('card.NEF')).toBe(true);
    expect(isPicture('a.mov')).toBe(false);
  });

  it('names a tray after its folder', () => {
    expect(trayName(filesPicked(picked('autumn/a.jpg', 'autumn/b.jpg')))).toBe('autumn');
    expect(trayName(filesPicked(picked('dial.jpg')))).toBe('dial');
    expect(trayName(filesPicked(picked('a.jpg', 'b.jpg')))).toBe('2 uploads');
  });
});
