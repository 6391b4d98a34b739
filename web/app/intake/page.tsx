import { IntakeView } from '@/features/intake/IntakeView';

export const metadata = { title: 'Intake' };

export default function Page() {
  return <IntakeView />;
}
