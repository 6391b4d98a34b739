'use client';

import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { type ReactNode, useEffect, useState } from 'react';
import { Toaster } from 'sonner';
import { UploadDropZone } from '@/features/intake/UploadDropZone';
import { useChoices } from './choices.ts';
import { CommandHost } from './commands/CommandHost.tsx';
import { useServerEvents } from './useServerEvents.ts';

/** The server may be this machine: it is asked whatever the browser thinks of the network. */
function createClient(): QueryClient {
  const networkMode = 'always';
  return new QueryClient({
    defaultOptions: {
      queries: { staleTime: 30_000, retry: 1, refetchOnWindowFocus: false, networkMode },
      mutations: { networkMode },
    },
  });
}

/** What every page stands in: queries, events of the server, commands and messages. */
export function Providers({ children }: { children: ReactNode }) {
  const [client] = useState(createClient);
  return (
    <QueryClientProvider client={client}>
      <ServerEvents />
      <Theme />
      <CommandHost />
      <UploadDropZone>{children}</UploadDropZone>
      <Toaster position="bottom-center" toastOptions={{ className: 'font-sans' }} closeButton />
    </QueryClientProvider>
  );
}

function ServerEvents() {
  useServerEvents();
  return null;
}

function Theme() {
  const theme = useChoices((choices) => choices.theme);
  useEffect(() => {
    if (theme) document.documentElement.dataset.theme = theme;
  }, [theme]);
  return null;
}
