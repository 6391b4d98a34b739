import { noteRead, noteUnread } from '@/ui/connection';

/** Pauses between two tries, in milliseconds. */
const FIRST_PAUSE = 3000;
const LONGEST_PAUSE = 60_000;

interface Showing {
  /** What the status line calls it while it does not come. */
  name: string;
  shown(image: HTMLImageElement): void;
  /** It did not come; it may be asked for again. */
  failed?(): void;
  /** Nobody wants it any more once this is false. */
  wanted(): boolean;
}

/**
 * Loads a picture. One that the store has lost is told and asked for again until it comes; one that a server
 * did not answer for is asked for again, too; one that is there and broken is not, since findings tell of it.
 */
export function loadPicture(url: string, showing: Showing, pause = FIRST_PAUSE): void {
  const { name, shown, failed, wanted } = showing;
  const image = new Image();
  image.onload = () => {
    noteRead(name);
    if (wanted()) shown(image);
  };
  image.onerror = async () => {
    const status = await fetch(url).then(
      (response) => response.status,
      () => null,
    );
    if (!wanted()) return noteRead(name);
    failed?.();
    if (status === 404) noteUnread(name);
    else if (status !== null) return noteRead(name);
    setTimeout(
      () => (wanted() ? loadPicture(url, showing, Math.min(pause * 2, LONGEST_PAUSE)) : noteRead(name)),
      pause,
    );
  };
  image.src = url;
}
