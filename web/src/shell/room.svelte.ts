const KEY = 'upper-tray.room';

export type Choice = 'system' | 'light' | 'dark';

function kept(): Choice {
  const found = localStorage.getItem(KEY);
  return found === 'light' || found === 'dark' ? found : 'system';
}

/** Whether pictures are judged in a light room or a dark one: as the system has it, until somebody chooses. */
class Room {
  choice = $state<Choice>(kept());
  private readonly system = matchMedia('(prefers-color-scheme: dark)');

  constructor() {
    this.system.addEventListener('change', () => this.show());
    this.show();
  }

  set(choice: Choice): void {
    this.choice = choice;
    if (choice === 'system') localStorage.removeItem(KEY);
    else localStorage.setItem(KEY, choice);
    this.show();
  }

  private show(): void {
    const dark = this.choice === 'dark' || (this.choice === 'system' && this.system.matches);
    document.documentElement.dataset['room'] = dark ? 'dark' : 'light';
  }
}

export const room = new Room();
