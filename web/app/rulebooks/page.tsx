import { Suspense } from 'react';
import { RulebooksView } from '@/features/rulebooks/RulebooksView';

export const metadata = { title: 'Rulebooks' };

export default function Page() {
  return (
    <Suspense>
      <RulebooksView />
    </Suspense>
  );
}
