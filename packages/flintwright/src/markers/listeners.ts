/** Listeners of one thing. Most things have none, and then hold nothing. */
export class Listeners {
  private target: EventTarget | undefined;

  add(
    type: string,
    listener: EventListenerOrEventListenerObject | null,
    options?: boolean | AddEventListenerOptions,
  ): void {
    (this.target ??= new EventTarget()).addEventListener(type, listener, options);
  }

  remove(
    type: string,
    listener: EventListenerOrEventListenerObject | null,
    options?: boolean | EventListenerOptions,
  ): void {
    this.target?.removeEventListener(type, listener, options);
  }

  /** Tells of an event; false when somebody prevented what would follow. */
  tell(type: string, detail: unknown): boolean {
    return this.target?.dispatchEvent(new CustomEvent(type, { detail, cancelable: true })) ?? true;
  }
}
