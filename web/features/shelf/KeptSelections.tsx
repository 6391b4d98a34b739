'use client';

import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { Trash2 } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import type { SelectionEntry } from '@/server/services/selections';
import { api } from '@/ui/api';
import { Button } from '@/ui/Button';
import { Chip, ChipSelect } from '@/ui/Chip';
import { Field } from '@/ui/Field';
import { plural } from '@/ui/format';
import { select, selectAllFound, useSelected } from './selected.ts';

const KEY = ['selections'];

interface Answer {
  selections: SelectionEntry[];
}

/** Selections by name: the filters alone, or what was selected under them. */
export function KeptSelections() {
  const client = useQueryClient();
  const { data = [] } = useQuery({
    queryKey: KEY,
    queryFn: async () => (await api<Answer>('/api/selections')).selections,
  });
  const { ids, filter } = useSelected();
  const [naming, setNaming] = useState(false);
  const [chosen, setChosen] = useState('');
  const told = {
    onSuccess: ({ selections }: Answer) => client.setQueryData(KEY, selections),
    onError: (error: Error) => toast.error(error.message),
  };
  const keep = useMutation({
    mutationFn: (name: string) =>
      api<Answer>('/api/selections', {
        method: 'POST',
        body: { name, filter, assets: ids.size > 0 ? [...ids] : null },
      }),
    ...told,
  });
  const remove = useMutation({
    mutationFn: (id: string) => api<Answer>(`/api/selections/${id}`, { method: 'DELETE' }),
    ...told,
  });
  const recall = async ({ filter: kept, assets }: SelectionEntry) => {
    useSelected.setState({ filter: kept });
    if (assets) select(assets);
    else await selectAllFound();
  };
  const current = data.find(({ id }) => id === chosen);
  return (
    <span className="flex items-center gap-1.5">
      {data.length > 0 && (
        <ChipSelect
          aria-label="Kept selections"
          value={chosen}
          onChange={(event) => {
            setChosen(event.target.value);
            const entry = data.find(({ id }) => id === event.target.value);
            if (entry) recall(entry).catch((error: Error) => toast.error(error.message));
          }}
        >
          <option value="">Kept selections</option>
          {data.map(({ id, name, assets }) => (
            <option key={id} value={id}>
              {name} ({assets ? plural(assets.length, 'asset') : 'by filters'})
            </option>
          ))}
        </ChipSelect>
      )}
      {current && (
        <button
          type="button"
          className="btn btn-ghost btn-xs btn-square"
          aria-label={`Forget ${current.name}`}
          onClick={() => remove.mutate(current.id)}
        >
          <Trash2 size={12} />
        </button>
      )}
      {naming ? (
        <form
          className="flex items-center gap-1.5"
          onSubmit={(event) => {
            event.preventDefault();
            const name = String(new FormData(event.currentTarget).get('name') ?? '').trim();
            if (name !== '') keep.mutate(name);
            setNaming(false);
          }}
          onKeyDown={(event) => event.key === 'Escape' && setNaming(false)}
        >
          <Field
            autoFocus
            name="name"
            className="w-36"
            aria-label="Name of the selection"
            placeholder="its name"
          />
          <Button type="submit">Keep</Button>
        </form>
      ) : (
        <Chip
          onClick={() => setNaming(true)}
          title={ids.size > 0 ? 'Keep what is selected under a name' : 'Keep these filters under a name'}
        >
          keep ...
        </Chip>
      )}
    </span>
  );
}
