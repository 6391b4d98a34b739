import { WorkersView } from '@/features/workers/WorkersView';

export const metadata = { title: 'Workers' };

export default function Page() {
  return <WorkersView />;
}
