'use client';

import { type DriveStep, driver } from 'driver.js';
import 'driver.js/dist/driver.css';
import { useEffect } from 'react';
import { useChoices } from '@/ui/choices';
import { STOPS } from './stops.ts';
import { useTour } from './tour.ts';

/**
 * Goes through the stops of the tour once it is asked for and what they point at is there; Escape, or a click
 * beside it, ends it.
 */
export function Tour({ ready }: { ready: boolean }) {
  const wanted = useTour((tour) => tour.wanted);
  useEffect(() => {
    if (!wanted || !ready) return;
    const steps: DriveStep[] = STOPS.map(({ element, title, text }) => ({
      element,
      popover: { title, description: text },
    }));
    const tour = driver({
      steps,
      showProgress: true,
      progressText: 'Stop {{current}} of {{total}}',
      nextBtnText: 'Next',
      prevBtnText: 'Back',
      doneBtnText: 'Done',
      popoverClass: 'tour',
      overlayOpacity: 0.45,
      stagePadding: 2,
      stageRadius: 6,
      disableActiveInteraction: true,
      duration: 150,
      animate: !matchMedia('(prefers-reduced-motion: reduce)').matches,
      onDestroyed() {
        useTour.setState({ wanted: false });
        useChoices.getState().set({ tourSeen: true });
      },
    });
    tour.drive();
    return () => tour.destroy();
  }, [wanted, ready]);
  return null;
}
