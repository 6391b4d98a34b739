import { HandoffsView } from '@/features/handoff/HandoffsView';

export const metadata = { title: 'Handoffs' };

export default function Page() {
  return <HandoffsView />;
}
