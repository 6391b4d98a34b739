/** How a picture that takes a while is followed and stopped. */
export interface Work {
  progress(share: number): void;
  signal: AbortSignal;
  /** Hears what the picture is not as it was asked for. */
  note(text: string): void;
}
