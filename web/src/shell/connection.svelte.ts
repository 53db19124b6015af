/** Whether the server answers: pages show what they have, and say that it may be old. */
class Connection {
  lost = $state(false);
  private timer: ReturnType<typeof setTimeout> | undefined;

  /** Something did not come through. Said only when it lasts: a stream is opened anew now and then. */
  failed(): void {
    this.timer ??= setTimeout(() => (this.lost = true), 1500);
  }

  came(): void {
    clearTimeout(this.timer);
    this.timer = undefined;
    this.lost = false;
  }
}

export const connection = new Connection();
