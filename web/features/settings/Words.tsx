'use client';

import { channelTitle } from '@kinkajou/core/scene/channelTitles';
import { CHANNELS, type ChannelName } from '@kinkajou/core/scene/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { Trash2 } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import type { HouseWord } from '@/server/services/knowledge';
import { api } from '@/ui/api';
import { Button } from '@/ui/Button';
import { ChipSelect } from '@/ui/Chip';
import { Field } from '@/ui/Field';

const KEY = ['settings', 'words'];
const PATH = '/api/settings/words';

/** Words of the house that say in a file name what an image is. */
export function Words() {
  const client = useQueryClient();
  const { data } = useQuery({ queryKey: KEY, queryFn: () => api<{ words: HouseWord[] }>(PATH) });
  const [word, setWord] = useState('');
  const [channel, setChannel] = useState<ChannelName>('baseColor');
  const change = useMutation({
    mutationFn: (call: { method: 'POST' | 'DELETE'; body: Partial<HouseWord> }) =>
      api<{ words: HouseWord[] }>(PATH, call),
    onSuccess: (answer) => client.setQueryData(KEY, answer),
    onError: (error) => toast.error(error.message),
  });
  const words = data?.words ?? [];
  return (
    <section className="rounded-md border border-[var(--line)] bg-base-100 p-4">
      <h2 className="mb-1 text-[14px] font-bold">Words of the house</h2>
      <p className="mb-3 text-[12.3px] text-[var(--soft)]">
        What your own words in file names mean, beside those that are known: with <i>farbe</i> for base
        colour, <code>hull_farbe.png</code> finds its slot. They count from the next look at an asset on.
      </p>
      <form
        className="mb-3 flex gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          change.mutate({ method: 'POST', body: { word, channel } }, { onSuccess: () => setWord('') });
        }}
      >
        <Field
          className="min-w-0 flex-1 font-mono text-[12px]"
          aria-label="Word"
          placeholder="farbe"
          maxLength={64}
          value={word}
          onChange={(event) => setWord(event.target.value)}
        />
        <ChipSelect
          aria-label="Channel"
          value={channel}
          onChange={(event) => setChannel(event.target.value as ChannelName)}
        >
          {CHANNELS.map((name) => (
            <option key={name} value={name}>
              {channelTitle(name)}
            </option>
          ))}
        </ChipSelect>
        <Button type="submit" main disabled={word.trim() === '' || change.isPending}>
          Add word
        </Button>
      </form>
      <ul className="flex flex-wrap gap-1.5" aria-label="Words of the house">
        {words.map((entry) => (
          <li
            key={entry.word}
            className="flex items-center gap-2 rounded-[5px] border border-[var(--line)] px-2 py-1 text-[12px]"
          >
            <b className="font-mono">{entry.word}</b> {channelTitle(entry.channel)}
            <button
              type="button"
              className="cursor-pointer text-[var(--soft)] hover:text-error"
              aria-label={`Remove ${entry.word}`}
              onClick={() => change.mutate({ method: 'DELETE', body: { word: entry.word } })}
            >
              <Trash2 size={12} />
            </button>
          </li>
        ))}
        {data && words.length === 0 && (
          <li className="text-[12.3px] text-[var(--soft)]">
            No word yet. Add one that your files use and that is not recognised.
          </li>
        )}
      </ul>
    </section>
  );
}
