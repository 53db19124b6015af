export interface Comment {
  id: number;
  by: string;
  mine: boolean;
  text: string;
  x: number | null;
  y: number | null;
}
export type Says = 'yes' | 'maybe' | 'no';
export interface Thing {
  id: number;
  name: string;
  width: number;
  height: number;
  bytes: number;
  format: string;
  title: string;
  alt: string;
  there: boolean;
  says: Says | null;
  comments: Comment[];
}
export interface Room {
  kind: 'pickup' | 'proof';
  name: string;
  studio: string;
  expires: string;
  guest: string;
  done: boolean;
  wanted: number | null;
  things: Thing[];
}

/** What the server does not do, in words. */
export class Refused extends Error {
  readonly status: number;

  constructor(status: number, message: string) {
    super(message);
    this.status = status;
  }
}

const UNEXPECTED = 'The server did not answer as it should. Try again.';

/** The link that this page is for: its number from the address, its secret from behind the #. */
export class Link {
  readonly kind: string;
  readonly number: number;
  readonly secret: string;
  room = $state.raw<Room>();

  constructor(address: { pathname: string; hash: string }) {
    const [, kind = '', number = ''] = address.pathname.split('/');
    this.kind = kind;
    this.number = Number(number);
    this.secret = address.hash.slice(1);
  }

  private async ask<T>(method: string, path: string, body?: unknown): Promise<T> {
    let answer: Response;
    try {
      answer = await fetch(`/guest/${this.number}${path}`, { method, headers: { 'Content-Type': 'application/json' }, body: body === undefined ? null : JSON.stringify(body) });
    } catch {
      throw new Refused(0, 'There is no connection. Nothing is lost: try again.');
    }
    const text = await answer.text();
    let got: (T & { detail?: string }) | undefined;
    try {
      got = text ? (JSON.parse(text) as typeof got) : undefined;
    } catch {
      // What stands between may answer in its own markup.
      throw new Refused(answer.status, UNEXPECTED);
    }
    if (!answer.ok) throw new Refused(answer.status, got?.detail ?? UNEXPECTED);
    return got as T;
  }

  /** Come back by the cookie; false where the link has to be brought anew. */
  async back(): Promise<boolean> {
    try {
      this.room = await this.ask<Room>('GET', '');
      return true;
    } catch (error) {
      if (error instanceof Refused && error.status === 401) return false;
      throw error;
    }
  }

  async open(name: string, passphrase: string): Promise<void> {
    this.room = await this.ask<Room>('POST', '/open', { secret: this.secret, name, passphrase });
  }

  picture(thing: Thing, small = false): string {
    return `/guest/${this.number}/things/${thing.id}/picture${small ? '?small=true' : ''}`;
  }

  file(thing: Thing): string {
    return `/guest/${this.number}/things/${thing.id}/file`;
  }

  private put(id: number, change: (thing: Thing) => Thing): void {
    if (this.room) this.room = { ...this.room, things: this.room.things.map((each) => (each.id === id ? change(each) : each)) };
  }

  /** Seen at once, and taken back where the server does not know of it. */
  async say(thing: Thing, says: Says | null): Promise<void> {
    const before = thing.says;
    this.put(thing.id, (each) => ({ ...each, says }));
    try {
      await this.ask('PUT', `/things/${thing.id}/says`, { says });
      if (this.room?.done) this.room = { ...this.room, done: false };
    } catch (error) {
      this.put(thing.id, (each) => ({ ...each, says: before }));
      throw error;
    }
  }

  async write(thing: Thing, text: string, spot: { x: number; y: number } | undefined): Promise<void> {
    const made = await this.ask<Comment>('POST', `/things/${thing.id}/comments`, { text, x: spot?.x ?? null, y: spot?.y ?? null });
    this.put(thing.id, (each) => ({ ...each, comments: [...each.comments, made] }));
  }

  async unwrite(thing: Thing, comment: Comment): Promise<void> {
    await this.ask('DELETE', `/comments/${comment.id}`);
    this.put(thing.id, (each) => ({ ...each, comments: each.comments.filter((other) => other.id !== comment.id) }));
  }

  async finish(done: boolean): Promise<void> {
    await this.ask('PUT', '/done', { done });
    if (this.room) this.room = { ...this.room, done };
  }
}

export function weight(count: number): string {
  if (count >= 995_000) return `${(count / 1e6).toFixed(1)} MB`;
  return `${Math.max(1, Math.round(count / 1000))} kB`;
}
