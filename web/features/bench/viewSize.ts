'use client';

import { useSyncExternalStore } from 'react';
import { useChoices } from '@/ui/choices';

/** Where docket, step and view do not fit beside each other, as on a small window or in large type. */
const NARROW = '(max-width: 859px)';

function listen(change: () => void): () => void {
  const query = window.matchMedia(NARROW);
  query.addEventListener('change', change);
  return () => query.removeEventListener('change', change);
}

type ViewSize = ReturnType<typeof useChoices.getState>['view']['size'];

/**
 * How much of the bench the view takes: as was chosen, but folded or full alone where there is no room beside
 * it.
 */
export function useViewSize(): { size: ViewSize; unfolded: ViewSize } {
  const chosen = useChoices((choices) => choices.view.size);
  const narrow = useSyncExternalStore(
    listen,
    () => window.matchMedia(NARROW).matches,
    () => false,
  );
  return { size: narrow && chosen === 'side' ? 'folded' : chosen, unfolded: narrow ? 'full' : 'side' };
}
