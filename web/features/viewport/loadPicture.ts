import { noteRead, noteUnread } from '@/ui/connection';

/** Pauses between two tries, in milliseconds. */
const FIRST_PAUSE = 3000;
const LONGEST_PAUSE = 60_000;

interface Showing {
  /** What the status line calls it while it does not come. */
  name: string;
  shown(image: HTMLImageElement): void;
  /** It did not come; it is asked for again. */
  failed?(): void;
  /** Nobody wants it any more once this is false. */
  wanted(): boolean;
}

/** Loads a picture; one that does not come is told and asked for again until it does. */
export function loadPicture(url: string, { name, shown, failed, wanted }: Showing, pause = FIRST_PAUSE): void {
  const image = new Image();
  image.onload = () => {
    noteRead(name);
    if (wanted()) shown(image);
  };
  image.onerror = () => {
    if (!wanted()) return noteRead(name);
    noteUnread(name);
    failed?.();
    setTimeout(() => (wanted() ? loadPicture(url, { name, shown, failed, wanted }, Math.min(pause * 2, LONGEST_PAUSE)) : noteRead(name)), pause);
  };
  image.src = url;
}
