'use client';

import type { Rulebook } from '@kinkajou/core/rules/rulebook';
import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import type { RunResult } from '@/server/services/runs';
import type { TrialPicture } from '@/server/services/trialPictures';
import { api } from '@/ui/api';
import { followJob } from '@/ui/jobs';

/** Assets of a trial that are drawn as they are and as they would be. */
const DRAWN = 20;
const NONE: ReadonlyMap<string, TrialPicture> = new Map();

/** How the first assets that a trial would change look and would look; they come when they are drawn. */
export function useTrialPictures(book: Rulebook, trial: RunResult | null): ReadonlyMap<string, TrialPicture> {
  const [drawn, setDrawn] = useState<{
    trial: RunResult;
    pictures: ReadonlyMap<string, TrialPicture>;
  } | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: pictures are of the rulebook as it was tried
  useEffect(() => {
    const assets = (trial?.outcomes ?? []).filter(({ edits }) => edits.length > 0).map(({ id }) => id);
    if (!trial || assets.length === 0) return;
    let left = false;
    const draw = async () => {
      const { job } = await api<{ job: string }>('/api/runs/pictures', {
        method: 'POST',
        body: { book, assets: assets.slice(0, DRAWN) },
      });
      const made = await followJob<{ pictures: TrialPicture[] }>(job, 'Drawing before and after');
      if (made && !left)
        setDrawn({ trial, pictures: new Map(made.pictures.map((picture) => [picture.asset, picture])) });
    };
    draw().catch((error: Error) => toast.error(error.message));
    return () => {
      left = true;
    };
  }, [trial]);
  return drawn && drawn.trial === trial ? drawn.pictures : NONE;
}
