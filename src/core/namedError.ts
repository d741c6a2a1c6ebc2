/**
 * An error that is told by a name and not by its class. Server and pages are bundles of their own, each with a copy of
 * every class: what one throws the other would not know. A subclass says what it is `called`, which no bundler shortens.
 */
export abstract class NamedError extends Error {
  static readonly called: string;

  constructor(message?: string) {
    super(message);
    this.name = new.target.called;
  }

  static override [Symbol.hasInstance](this: { called: string }, error: unknown): boolean {
    // biome-ignore lint/complexity/noThisInStatic: the subclass that is asked for
    return error instanceof Error && error.name === this.called;
  }
}
