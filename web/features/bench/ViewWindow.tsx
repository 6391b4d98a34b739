'use client';

import dynamic from 'next/dynamic';
import { useEffect } from 'react';
import { patiently } from '@/ui/patiently';
import { useFocus } from './focus.ts';
import { useSharedFocus } from './sharedFocus.ts';
import { BenchProvider, useBenchActions, useBenchQuery } from './useBench.ts';
import { useViewCommands } from './useBenchCommands.ts';

const Viewport = dynamic(
  () => patiently(() => import('../viewport/Viewport.tsx')).then((module) => module.Viewport),
  { ssr: false },
);
const StillsDialog = dynamic(
  () => patiently(() => import('../viewport/StillsDialog.tsx')).then((module) => module.StillsDialog),
  { ssr: false },
);

/**
 * The view alone, for a second screen: it follows the bench that it was opened from, and what is picked here
 * is found there.
 */
export function ViewWindow({ id }: { id: string }) {
  const query = useBenchQuery(id);
  const bench = useBenchActions(id, query.view);
  const step = useSharedFocus(id, null);
  const stills = useFocus(({ dialog }) => dialog === 'stills');
  const name = query.view?.name;
  useViewCommands();
  useEffect(() => {
    if (name) document.title = `View of ${name} - Kinkajou`;
  }, [name]);
  if (query.error && !bench)
    return <p className="grid h-full place-items-center text-error">{query.error.message}</p>;
  if (!bench)
    return <p className="grid h-full place-items-center text-[var(--soft)]">opening the asset ...</p>;
  return (
    <BenchProvider value={bench}>
      <main className="h-full">
        <h1 className="sr-only">{bench.view.name}</h1>
        <Viewport alone step={step} />
        {stills && <StillsDialog close={() => useFocus.getState().set({ dialog: null })} />}
      </main>
    </BenchProvider>
  );
}
