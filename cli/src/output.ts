/** Exit codes of every command. */
export const EXIT = { done: 0, errorsRemain: 1, unusable: 2 } as const;

/** Where results and messages go: results to stdout, messages to stderr. */
export interface Output {
  json(value: unknown): void;
  text(line: string): void;
  message(line: string): void;
}
