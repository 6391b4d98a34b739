'use client';

import { Button } from '@/ui/Button';
import { useChoices } from '@/ui/choices';
import { run } from '@/ui/commands/registry';

/**
 * Offers the tour to whoever has neither taken nor refused it; it stays in the list of commands and in Help.
 */
export function TourOffer() {
  const { tourSeen, set } = useChoices();
  if (tourSeen) return null;
  return (
    <p className="mb-2 flex items-center gap-2 rounded-md border border-[var(--line)] bg-base-200 px-3 py-1.5 text-[12.5px]">
      <span className="min-w-0 flex-1">
        <b>New here?</b> Five stops show what the bench is for.
      </span>
      <Button main onClick={() => run('tour')}>
        Take the tour
      </Button>
      <Button onClick={() => set({ tourSeen: true })}>Not now</Button>
    </p>
  );
}
