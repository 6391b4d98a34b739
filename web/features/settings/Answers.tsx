'use client';

import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { Trash2 } from 'lucide-react';
import { toast } from 'sonner';
import type { KeptAnswer } from '@/server/services/knowledge';
import { api } from '@/ui/api';
import { Button } from '@/ui/Button';
import { useChoices } from '@/ui/choices';
import { when } from '@/ui/format';

const KEY = ['settings', 'answers'];
const PATH = '/api/settings/answers';

/** What was answered on the bench and counts as evidence later on. */
export function Answers() {
  const client = useQueryClient();
  const { rememberAnswers, set } = useChoices();
  const { data } = useQuery({ queryKey: KEY, queryFn: () => api<{ answers: KeptAnswer[] }>(PATH) });
  const forget = useMutation({
    mutationFn: (id: number | null) =>
      api<{ answers: KeptAnswer[] }>(PATH, { method: 'DELETE', body: { id } }),
    onSuccess: (answer) => client.setQueryData(KEY, answer),
    onError: (error) => toast.error(error.message),
  });
  const answers = data?.answers ?? [];
  return (
    <section className="rounded-md border border-[var(--line)] bg-base-100 p-4">
      <div className="mb-1 flex items-center gap-3">
        <h2 className="text-[14px] font-bold">Remembered answers</h2>
        <span className="flex-1" />
        <label className="flex cursor-pointer items-center gap-1.5 text-[12px]">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={rememberAnswers}
            onChange={(event) => set({ rememberAnswers: event.target.checked })}
          />
          remember answers
        </label>
        <Button disabled={answers.length === 0 || forget.isPending} onClick={() => forget.mutate(null)}>
          Forget all
        </Button>
      </div>
      <p className="mb-3 text-[12.3px] text-[var(--soft)]">
        Which set of images was chosen for which material. In later parcels of the same program the same pair,
        and the same folder among rivals, is taken for it.
      </p>
      <ul className="grid gap-1.5" aria-label="Remembered answers">
        {answers.map(({ id, answer, asset, createdAt }) => (
          <li
            key={id}
            className="flex items-center gap-3 rounded-[5px] border border-[var(--line)] px-3 py-1.5 text-[12.3px]"
          >
            <span className="min-w-0 flex-1 truncate">
              <b>{answer.material}</b> has <b>{answer.set || answer.folder}</b>
              {answer.set && answer.folder ? ` in ${answer.folder}` : ''}
            </span>
            <span className="min-w-0 max-w-[45%] truncate text-[11.5px] text-[var(--soft)]">
              {asset}, {answer.source}, {when(createdAt)}
            </span>
            <Button aria-label={`Forget ${answer.material}`} onClick={() => forget.mutate(id)}>
              <Trash2 size={13} />
            </Button>
          </li>
        ))}
        {data && answers.length === 0 && (
          <li className="py-3 text-center text-[12.3px] text-[var(--soft)]">
            Nothing yet. When the bench asks which images belong to a material, the answer is kept here.
          </li>
        )}
      </ul>
    </section>
  );
}
