import { Suspense } from 'react';
import { RunsView } from '@/features/runs/RunsView';

export const metadata = { title: 'Runs' };

export default function Page() {
  return (
    <Suspense>
      <RunsView />
    </Suspense>
  );
}
