import { InsightsView } from '@/features/insights/InsightsView';

export const metadata = { title: 'Insights' };

export default function Page() {
  return <InsightsView />;
}
