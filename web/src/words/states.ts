/** What a rendition, a cell or a photo is, in words: the same wherever it is told. */
const WORDS: Record<string, string> = {
  planned: 'planned',
  eye: 'needs a crop',
  outline: 'needs an outline',
  word: 'needs a word',
  asking: 'waits for your answer',
  excluded: 'left out',
  waiting: 'waiting',
  making: 'being made',
  done: 'made',
  made: 'made',
  kept: 'older file kept',
  outdated: 'out of date',
  failed: 'failed',
  stopped: 'stopped',
};

/** States in which a cell is made when somebody presses *make*. */
export const TO_MAKE = ['planned', 'outdated', 'failed'];
/** States in which a cell is being made. */
export const OPEN = ['waiting', 'making'];

export function stateWords(state: string): string {
  return WORDS[state] ?? state;
}
