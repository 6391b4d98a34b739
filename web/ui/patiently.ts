/** The longest pause between two tries, in milliseconds. */
const LONGEST = 8000;

/**
 * Loads a piece of the page that comes when it is needed; while the server does not answer, again and again.
 * A piece that is there and fails is not asked for twice.
 */
export async function patiently<T>(load: () => Promise<T>, pause = 500): Promise<T> {
  for (let wait = pause; ; wait = Math.min(wait * 2, LONGEST)) {
    try {
      return await load();
    } catch (error) {
      if (!(error instanceof Error && error.name === 'ChunkLoadError')) throw error;
      await new Promise((resolve) => setTimeout(resolve, wait));
    }
  }
}
