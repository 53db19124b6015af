import { say } from '../shell/notices.svelte';

/** Copy a path on the server; where the browser does not let it, it is shown. */
export async function copyPath(path: string): Promise<void> {
  try {
    await navigator.clipboard.writeText(path);
    say('Copied the path');
  } catch {
    say(`The browser does not let it be copied: ${path}`, { bad: true });
  }
}
