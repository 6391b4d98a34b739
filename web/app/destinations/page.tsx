import { Suspense } from 'react';
import { DestinationsView } from '@/features/destinations/DestinationsView';

export const metadata = { title: 'Destinations' };

export default function Page() {
  return (
    <Suspense>
      <DestinationsView />
    </Suspense>
  );
}
