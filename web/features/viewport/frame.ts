/** Asks the viewport to frame the whole asset; it listens while it is shown. */
const listeners = new Set<() => void>();

export function frameAll(): void {
  for (const listener of listeners) listener();
}

export function onFrameAll(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}
