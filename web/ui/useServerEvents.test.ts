import { QueryClient } from '@tanstack/react-query';
import { expect, test } from 'vitest';
import { refresh } from './useServerEvents.ts';

test('an answer that was on its way when something changed does not count as new', async () => {
  const client = new QueryClient({
    defaultOptions: { queries: { staleTime: 30_000, retry: false, gcTime: Number.POSITIVE_INFINITY } },
  });
  const queryKey = ['shelf'];
  client.setQueryData(queryKey, 'three assets');
  await client.invalidateQueries({ queryKey });
  let answer = (_: string) => {};
  const asked = client
    .fetchQuery({ queryKey, queryFn: () => new Promise<string>((resolve) => (answer = resolve)) })
    .catch(() => undefined);
  await Promise.resolve();
  await refresh(client, queryKey);
  answer('one asset');
  await asked;
  const shown = await client.fetchQuery({ queryKey, queryFn: async () => 'no asset' });
  expect(shown).toBe('no asset');
  client.clear();
});
