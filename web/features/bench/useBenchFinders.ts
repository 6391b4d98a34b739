'use client';

import { useEffect, useRef } from 'react';
import { addFinders, type Finder } from '@/ui/commands/finders';
import { fileName } from '@/ui/format';
import { openMake } from '../surface/makeStore.ts';
import { recipeFinder } from '../surface/recipeFinder.ts';
import { useFocus } from './focus.ts';
import { goToStep } from './steps.ts';
import type { Bench } from './useBench.ts';

/**
 * The list of commands leads to the asset's materials, on the board, to its images, in Links, and to what new
 * images can be made.
 */
export function useBenchFinders(id: string, bench: Bench | null): void {
  const own = useRef<Finder[]>([]);
  own.current = bench ? findersOf(bench, (step) => goToStep(id, step)) : [];
  useEffect(() => addFinders(own), []);
}

function findersOf({ view: { state } }: Bench, goTo: (step: 'slots' | 'links') => void): Finder[] {
  const { set } = useFocus.getState();
  return [
    {
      heading: 'Materials',
      find: () =>
        state.materials.map(({ key, name, channels }) => ({
          key,
          title: name,
          detail: Object.keys(channels).join(', '),
          go() {
            const slot = {
              material: key,
              channel: (Object.keys(channels)[0] ?? 'baseColor') as keyof typeof channels,
            };
            set({ slot, anchor: slot, selected: [slot] });
            goTo('slots');
          },
        })),
    },
    {
      heading: 'Images',
      find: () =>
        state.images.map(({ key, written, resolved, status }) => ({
          key,
          title: fileName(resolved ?? written),
          detail: status === 'missing' ? `missing: ${written}` : (resolved ?? written),
          go() {
            set({ image: key });
            goTo('links');
          },
        })),
    },
    recipeFinder(state.materials, () => useFocus.getState().selected, openMake),
  ];
}
