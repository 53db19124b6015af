import createClient from 'openapi-fetch';
import { connection } from '../shell/connection.svelte';
import type { components, paths } from './schema';

export type Schemas = components['schemas'];
export type Board = Schemas['BoardOut'];
export type Row = Schemas['RowOut'];
export type Overview = Schemas['OverviewOut'];
export type Bench = Schemas['BenchOut'];
export type Numbers = Schemas['NumbersOut'];
export type Framing = Schemas['FramingOut'];
export type Lists = Schemas['ListsOut'];
export type Drawing = Schemas['DrawingOut'];
export type Starter = Schemas['StarterOut'];
export type Photo = Schemas['PhotoOut'];
export type Cell = Schemas['CellOut'];
export type Recipe = Schemas['RecipeOut'];
export type Tray = Schemas['TrayOut'];
export type Run = Schemas['RunOut'];
export type RunDetail = Schemas['RunDetailOut'];
export type Rendition = Schemas['RenditionOut'];
export type Me = Schemas['MeOut'];

export interface FieldProblem {
  field: string;
  expected: string;
  found: string;
  remedy: string;
}

/** Something the server says is not right, in words for people. */
export class Problem extends Error {
  readonly status: number;
  readonly fields: FieldProblem[];

  constructor(status: number, message: string, fields: FieldProblem[] = []) {
    super(message);
    this.status = status;
    this.fields = fields;
  }
}

/** What is wrong with which field, in sentences; thrown again where it is something else that went wrong. */
export function fieldsOf(error: unknown): Record<string, string> {
  if (!(error instanceof Problem) || error.status !== 422 || !error.fields.length) throw error;
  return Object.fromEntries(error.fields.map((each) => [each.field, `Expected ${each.expected}, found ${each.found}. ${each.remedy}`]));
}

export function csrf(): string {
  return /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? '';
}

export function problemOf(status: number, body: unknown): Problem {
  const found = (typeof body === 'object' && body !== null ? body : {}) as { detail?: string; fields?: FieldProblem[] };
  return new Problem(status, found.detail ?? 'The server did not answer as it should. Try again.', found.fields);
}

export const api = createClient<paths>({ baseUrl: '/' });
api.use({
  onRequest({ request }) {
    request.headers.set('X-CSRFToken', csrf());
    return request;
  },
});

/** An answer that came, whatever it says; who is no longer signed in is led there. */
async function came<T>(answer: Promise<T>, status: (got: T) => number): Promise<T> {
  let got;
  try {
    got = await answer;
  } catch (error) {
    if (error instanceof DOMException && error.name === 'AbortError') throw error;
    connection.failed();
    throw new Problem(0, 'The server cannot be reached. Is it still running?');
  }
  connection.came();
  if (status(got) === 401) location.assign(`/sign-in?next=${encodeURIComponent(location.pathname)}`);
  return got;
}

/** Where an answer is no JSON: a picture, or a call that an undo keeps. The answer, or its problem thrown. */
export async function answered(path: string, how: { method?: string; body?: BodyInit | null; signal?: AbortSignal } = {}): Promise<Response> {
  const headers = { 'X-CSRFToken': csrf(), ...(typeof how.body === 'string' ? { 'Content-Type': 'application/json' } : {}) };
  const answer = await came(fetch(path, { method: 'POST', ...how, headers }), ({ status }) => status);
  if (!answer.ok) throw problemOf(answer.status, await answer.json().catch(() => undefined));
  return answer;
}

/** Send a file that somebody chose; the answer, or its problem thrown. */
export async function sent<T>(path: string, file: File, more: Record<string, string> = {}): Promise<T> {
  const body = new FormData();
  for (const [name, value] of Object.entries({ file, ...more })) body.append(name, value);
  return (await (await answered(path, { body })).json()) as T;
}

/** The data of an answer, or its problem thrown. */
export async function taken<T>(answer: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  const got = await came(answer, ({ response }) => response.status);
  if (got.error !== undefined || !got.response.ok) throw problemOf(got.response.status, got.error);
  return got.data as T;
}
