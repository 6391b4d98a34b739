'use client';

import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { Trash2 } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import type { TokenEntry } from '@/server/services/tokens';
import { api } from '@/ui/api';
import { Button } from '@/ui/Button';
import { Field } from '@/ui/Field';
import { when } from '@/ui/format';
import { Link } from '@/ui/Link';

const KEY = ['tokens'];

/** Tokens for scripts; each is told once. */
export function Tokens() {
  const client = useQueryClient();
  const { data = [] } = useQuery({
    queryKey: KEY,
    queryFn: async () => (await api<{ tokens: TokenEntry[] }>('/api/tokens')).tokens,
  });
  const [name, setName] = useState('');
  const onError = (error: Error) => toast.error(error.message);
  const keep = ({ tokens }: { tokens: TokenEntry[] }) => client.setQueryData(KEY, tokens);
  const make = useMutation({
    mutationFn: () =>
      api<{ token: string; tokens: TokenEntry[] }>('/api/tokens', {
        method: 'POST',
        body: { name: name.trim() },
      }),
    onSuccess: (answer) => {
      keep(answer);
      setName('');
    },
    onError,
  });
  const revoke = useMutation({
    mutationFn: (id: string) => api<{ tokens: TokenEntry[] }>(`/api/tokens/${id}`, { method: 'DELETE' }),
    onSuccess: (answer) => {
      keep(answer);
      make.reset();
    },
    onError,
  });
  return (
    <section className="rounded-md border border-[var(--line)] bg-base-100 p-4" aria-label="Tokens">
      <h2 className="mb-1 text-[14px] font-bold">Tokens for scripts</h2>
      <p className="mb-3 text-[12.3px] text-[var(--soft)]">
        A script that shows one sends parcels, with what is to be done to them, and fetches packages. How is
        told on the{' '}
        <Link className="underline" href="/api">
          HTTP interface
        </Link>
        .
      </p>
      <form
        className="flex items-center gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim() !== '') make.mutate();
        }}
      >
        <Field
          className="w-56"
          value={name}
          placeholder="who will use it"
          aria-label="Name of the token"
          onChange={(event) => setName(event.target.value)}
        />
        <Button type="submit" disabled={name.trim() === '' || make.isPending}>
          Make a token
        </Button>
      </form>
      {make.data && (
        <p className="mt-2 text-[12.3px]" role="status">
          Keep it now, it is not shown again:{' '}
          <code className="rounded-[3px] bg-[var(--honey-wash)] px-1 font-mono text-[11.5px] break-all select-all">
            {make.data.token}
          </code>
        </p>
      )}
      <ul className="mt-3 grid gap-1 text-[12.5px]">
        {data.map((token) => (
          <li key={token.id} className="flex items-center gap-2">
            <b className="truncate">{token.name}</b>
            <span className="text-[var(--soft)]">
              made {when(token.createdAt)},{' '}
              {token.lastUsedAt ? `used ${when(token.lastUsedAt)}` : 'not used yet'}
            </span>
            <span className="flex-1" />
            <button
              type="button"
              className="btn btn-ghost btn-xs btn-square"
              aria-label={`Revoke ${token.name}`}
              onClick={() => revoke.mutate(token.id)}
            >
              <Trash2 size={12} />
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
