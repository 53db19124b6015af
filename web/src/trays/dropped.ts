import { say } from '../shell/notices.svelte';
import { studio } from '../shell/studio.svelte';
import { count } from '../words/numbers';

export interface Dropped {
  file: File;
  path: string;
}

/** What is taken from a folder, by the server's own list; a file dropped by itself is always taken and judged by its content. */
export function isPicture(name: string): boolean {
  const end = name.slice(name.lastIndexOf('.')).toLowerCase();
  return !name.startsWith('.') && (studio.me?.extensions.includes(end) ?? false);
}

/** Say what a folder holds beside pictures, and is left out. */
function sayLeftOut(names: string[]): void {
  const seen = names.filter((name) => !name.startsWith('.'));
  if (seen.length === 0) return;
  const some = seen.slice(0, 3).join(', ') + (seen.length > 3 ? '…' : '');
  say(`${count(seen.length, 'file')} of the folder ${seen.length === 1 ? 'is no picture and was' : 'are no pictures and were'} left out: ${some}`);
}

/** All files of a drop, folders opened, each with its path below what was dropped. */
export async function filesOf(items: DataTransferItemList): Promise<Dropped[]> {
  const given = [...items].map((item) => ({ entry: item.webkitGetAsEntry(), file: item.getAsFile() }));
  const leftOut: string[] = [];
  // What has no entry is no folder, but may be a file: from another program, or put together by a script.
  const found = await Promise.all(
    given.map(({ entry, file }) => (entry ? walk(entry, '', leftOut) : Promise.resolve(file ? [{ file, path: file.name }] : []))),
  );
  sayLeftOut(leftOut);
  return found.flat();
}

async function walk(entry: FileSystemEntry, parent: string, leftOut: string[]): Promise<Dropped[]> {
  const path = parent ? `${parent}/${entry.name}` : entry.name;
  if (entry.isFile) {
    if (parent && !isPicture(entry.name)) {
      leftOut.push(entry.name);
      return [];
    }
    return [{ file: await new Promise<File>((done, failed) => (entry as FileSystemFileEntry).file(done, failed)), path }];
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const inside: Dropped[] = [];
  for (;;) {
    // A reader gives at most a hundred at a time and an empty list at its end.
    const some = await new Promise<FileSystemEntry[]>((done, failed) => reader.readEntries(done, failed));
    if (some.length === 0) break;
    for (const each of some.toSorted((one, other) => one.name.localeCompare(other.name))) inside.push(...(await walk(each, path, leftOut)));
  }
  return inside;
}

/** Files picked with a file or folder dialog. */
export function filesPicked(list: FileList): Dropped[] {
  const all = [...list].map((file) => ({ file, path: file.webkitRelativePath || file.name }));
  const taken = ({ file, path }: Dropped) => !path.includes('/') || isPicture(file.name);
  sayLeftOut(all.filter((each) => !taken(each)).map(({ file }) => file.name));
  return all.filter(taken);
}

/** A name for a tray that is made from these files. */
export function trayName(files: Dropped[]): string {
  const folder = files[0]?.path.split('/').slice(0, -1)[0];
  return folder || (files.length === 1 ? (files[0]?.file.name.replace(/\.\w+$/, '') ?? 'Upload') : `${files.length} uploads`);
}
