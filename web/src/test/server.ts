/** What a page asked of the server. */
export interface Ask {
  call: string;
  path: Record<string, unknown>;
  query: Record<string, unknown>;
  body: unknown;
}

type Answer = (ask: Ask) => unknown;

/** Thrown by an answer that is a refusal: the status, and what the server says of it. */
export class Refusal extends Error {
  readonly status: number;
  readonly body: object;

  constructor(status: number, body: object) {
    super(`refused with ${status}`);
    this.status = status;
    this.body = body;
  }
}

/** Thrown where nobody answers. */
export class NobodyThere extends Error {}

interface How {
  params?: { path?: Record<string, unknown>; query?: Record<string, unknown> };
  body?: unknown;
}

/** What comes through the wire. */
const sentAs = (body: unknown): unknown => (body === undefined ? undefined : JSON.parse(JSON.stringify(body)));

/**
 * A server for tests, in place of `api`: it answers what it was told to and remembers what it was asked.
 *
 *     vi.mock('../api/client', async (original) => ({ ...(await original<object>()), api: (await import('../test/server')).server.api }));
 */
class TestServer {
  asked: Ask[] = [];
  private answers = new Map<string, Answer>();

  /** Begin anew. answers: by method and path, as "GET /api/runs"; what never changes may be given as it is. */
  knows(answers: Record<string, Answer | object>): void {
    this.asked = [];
    this.answers = new Map();
    for (const [call, answer] of Object.entries(answers)) this.on(call, answer);
  }

  on(call: string, answer: Answer | object): void {
    this.answers.set(call, typeof answer === 'function' ? (answer as Answer) : () => answer);
  }

  /** The bodies that a call came with. */
  bodies(call: string): unknown[] {
    return this.asked.filter((each) => each.call === call).map((each) => each.body);
  }

  private async answer(method: string, path: string, how: How = {}): Promise<unknown> {
    const call = `${method} ${path}`;
    const ask = { call, path: how.params?.path ?? {}, query: how.params?.query ?? {}, body: sentAs(how.body) };
    this.asked.push(ask);
    const answer = this.answers.get(call);
    if (!answer) throw new Error(`the test's server knows no ${call}`);
    try {
      return { data: structuredClone(await answer(ask)), response: { ok: true, status: 200 } };
    } catch (error) {
      if (error instanceof Refusal) return { error: error.body, response: { ok: false, status: error.status } };
      throw error;
    }
  }

  readonly api = Object.fromEntries(['GET', 'POST', 'PUT', 'DELETE'].map((method) => [method, (path: string, how?: How) => this.answer(method, path, how)]));
}

export const server = new TestServer();
