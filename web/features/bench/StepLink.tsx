'use client';

import type { Step } from '@kinkajou/core/findings/finding';
import type { AnchorHTMLAttributes } from 'react';
import { goToStep } from './steps.ts';

interface StepLinkProps extends AnchorHTMLAttributes<HTMLAnchorElement> {
  asset: string;
  step: Step;
}

/** Leads to another step of the asset; with a key held, to a window of its own, as any link does. */
export function StepLink({ asset, step, ...rest }: StepLinkProps) {
  return (
    <a
      {...rest}
      href={`/assets/${asset}/${step}`}
      onClick={(event) => {
        if (event.metaKey || event.ctrlKey || event.shiftKey || event.altKey) return;
        event.preventDefault();
        goToStep(asset, step);
      }}
    />
  );
}
