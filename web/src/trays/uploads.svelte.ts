import { api, csrf, problemOf, taken } from '../api/client';
import { say } from '../shell/notices.svelte';
import { gathered } from './gathered';

export interface Upload {
  id: number;
  tray: { id: number; name: string };
  file: File;
  path: string;
  /** Its place in the tray, promised before anything is sent. */
  place: number;
  state: 'waiting' | 'sending' | 'sent' | 'failed';
  sent: number;
  reason: string;
  /** Its number, once it was sent. */
  photo?: number;
  /** What was dropped together is undone together. */
  batch: number;
}

const AT_ONCE = 3;

/** Files on their way to the server: a few at a time, each by itself, the failed ones kept for another try. */
class Uploads {
  all = $state<Upload[]>([]);
  total = $derived(this.all.reduce((sum, each) => sum + each.file.size, 0));
  sent = $derived(this.all.reduce((sum, each) => sum + (each.state === 'sent' ? each.file.size : each.sent), 0));
  done = $derived(this.all.filter((each) => each.state === 'sent').length);
  failed = $derived(this.all.filter((each) => each.state === 'failed').length);
  busy = $derived(this.all.some((each) => each.state === 'waiting' || each.state === 'sending'));
  private next = 1;

  /** Send files into a tray, where they stand in the order of their names. */
  async add(tray: { id: number; name: string }, files: { file: File; path: string }[]): Promise<void> {
    if (files.length === 0) {
      say('There is no photo in what you dropped.', { bad: true });
      return;
    }
    const body = { count: files.length };
    const { start } = await taken(api.POST('/api/trays/{number}/promised', { params: { path: { number: tray.id } }, body }));
    if (!this.busy && this.failed === 0) this.all = [];
    const sorted = files.toSorted((one, other) => (one.path < other.path ? -1 : 1));
    for (const [i, { file, path }] of sorted.entries()) {
      this.all.push({ id: this.next++, tray, file, path, place: start + i, batch: start, state: 'waiting', sent: 0, reason: '' });
    }
    this.pump();
  }

  retry(upload?: Upload): void {
    for (const each of this.all) {
      if (each.state === 'failed' && (!upload || each.id === upload.id)) {
        each.state = 'waiting';
        each.sent = 0;
      }
    }
    this.pump();
  }

  clear(): void {
    if (!this.busy) this.all = [];
  }

  private pump(): void {
    const sending = this.all.filter((each) => each.state === 'sending').length;
    for (const each of this.all.filter((each) => each.state === 'waiting').slice(0, AT_ONCE - sending)) this.send(each);
  }

  private arrived(upload: Upload, photo: number | undefined): void {
    upload.state = 'sent';
    if (photo !== undefined) upload.photo = photo;
    const batch = this.all.filter((each) => each.tray.id === upload.tray.id && each.batch === upload.batch);
    if (batch.every((each) => each.state === 'sent' || each.state === 'failed')) gathered(upload.tray, batch.flatMap((each) => each.photo ?? []));
  }

  private send(upload: Upload): void {
    upload.state = 'sending';
    const body = new FormData();
    body.set('path', upload.path);
    body.set('place', String(upload.place));
    body.set('file', upload.file, upload.file.name);
    // fetch tells nothing of its progress while sending; the older way does.
    const request = new XMLHttpRequest();
    request.open('POST', `/api/trays/${upload.tray.id}/uploads`);
    request.setRequestHeader('X-CSRFToken', csrf());
    request.responseType = 'json';
    request.upload.onprogress = (event) => (upload.sent = Math.min(event.loaded, upload.file.size));
    request.onload = () => {
      if (request.status < 300) this.arrived(upload, (request.response as { id?: number } | null)?.id);
      else fail(problemOf(request.status, request.response).message);
      this.pump();
    };
    request.onerror = () => {
      fail('The connection was lost. Try again.');
      this.pump();
    };
    const fail = (reason: string) => {
      upload.state = 'failed';
      upload.reason = reason;
    };
    request.send(body);
  }
}

export const uploads = new Uploads();
