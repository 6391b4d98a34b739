'use client';

import { type TagChange, type TagRepair, tagChanges, tagEdits } from '@kinkajou/core/asset/repairTags';
import type { ColourSpace } from '@kinkajou/core/scene/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { toast } from 'sonner';
import type { TagResult } from '@/server/services/tags';
import { api } from '@/ui/api';
import { Button } from '@/ui/Button';
import { ChipSelect } from '@/ui/Chip';
import { Field } from '@/ui/Field';
import { plural } from '@/ui/format';
import { followJob } from '@/ui/jobs';
import { useFocus } from '../bench/focus.ts';
import { useBench } from '../bench/useBench.ts';
import { useShelf } from '../shelf/shelf.ts';
import { TagSelect } from './TagSelect.tsx';

type Scope = 'selection' | 'asset' | 'parcel' | 'shelf';

/**
 * Tags many uses at once: as each channel needs or as one space, by a word in the names, in the selection,
 * here or everywhere.
 */
export function RepairBar() {
  const bench = useBench();
  const { view } = bench;
  const client = useQueryClient();
  const selected = useFocus((state) => state.selected);
  const [scope, setScope] = useState<Scope>('asset');
  const [keyword, setKeyword] = useState('');
  const [how, setHow] = useState<'channel' | 'space'>('channel');
  const [space, setSpace] = useState<ColourSpace>('data');
  const to: TagRepair['to'] = how === 'channel' ? 'channel' : space;
  const detected = useMemo(() => new Map(view.detected.map((map) => [map.path, map])), [view.detected]);
  const here = useMemo(
    (): TagChange[] =>
      tagChanges(view.state, view.images, detected, {
        to,
        keyword,
        slots: scope === 'selection' ? selected : null,
      }),
    [view, detected, to, keyword, scope, selected],
  );
  const siblings = useShelf({ parcel: view.parcel.id, limit: 5000 });
  const several = scope === 'parcel' || scope === 'shelf';
  const family = (siblings.data?.assets ?? []).map((asset) => asset.id);
  const body = { assets: scope === 'parcel' ? family : null, to, keyword };
  const everywhere = useQuery({
    queryKey: ['tags', view.id, view.version, scope, to, keyword],
    queryFn: () => api<TagResult>('/api/tags', { method: 'POST', body: { ...body, preview: true } }),
    enabled: several && (scope === 'shelf' || family.length > 0),
  });
  const repair = useMutation({
    mutationFn: async () => {
      const { job } = await api<{ job: string }>('/api/tags', {
        method: 'POST',
        body: { ...body, preview: false },
      });
      return followJob<TagResult>(job, 'Tagging');
    },
    onSuccess: (result) => {
      if (result)
        toast.success(
          `Tagged ${plural(result.changes, 'use')} in ${plural(result.assets.length, 'asset')}. Each can be undone on its bench.`,
        );
      void client.invalidateQueries({ queryKey: ['asset'] });
      void client.invalidateQueries({ queryKey: ['shelf'] });
    },
    onError: (error) => toast.error(error.message),
  });
  const count = several ? (everywhere.data?.changes ?? 0) : here.length;
  const detail = `${how === 'channel' ? 'as each channel needs' : 'all as one space'}${keyword === '' ? '' : `, names with "${keyword}"`}`;
  const apply = () => {
    if (several) repair.mutate();
    else bench.apply(tagEdits(here, { from: 'hand', detail }));
  };
  return (
    <fieldset
      className="flex min-w-0 flex-wrap items-center gap-1.5 border-b border-[var(--line)] px-3 py-1.5 text-[12px]"
      aria-label="Repair tags"
    >
      <span className="text-[var(--soft)]">Tag</span>
      <ChipSelect
        aria-label="Which uses"
        value={scope}
        onChange={(event) => setScope(event.target.value as Scope)}
      >
        <option value="selection">the selection</option>
        <option value="asset">this asset</option>
        {family.length > 1 && <option value="parcel">all {family.length} of this parcel</option>}
        <option value="shelf">every asset</option>
      </ChipSelect>
      <Field
        className="w-24"
        placeholder="any name"
        aria-label="Word in the name"
        value={keyword}
        onChange={(event) => setKeyword(event.target.value)}
      />
      <ChipSelect
        aria-label="How to tag"
        value={how}
        onChange={(event) => setHow(event.target.value as 'channel' | 'space')}
      >
        <option value="channel">as channels need</option>
        <option value="space">as</option>
      </ChipSelect>
      {how === 'space' && <TagSelect value={space} change={setSpace} label="Tag for all" />}
      <span className="flex-1" />
      <Button main disabled={count === 0 || bench.busy || repair.isPending} onClick={apply}>
        {several && everywhere.data
          ? `Tag ${plural(count, 'use')} in ${plural(everywhere.data.assets.length, 'asset')}`
          : `Tag ${plural(count, 'use')}`}
      </Button>
    </fieldset>
  );
}
