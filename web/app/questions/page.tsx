import { QuestionsView } from '@/features/questions/QuestionsView';

export const metadata = { title: 'Questions' };

export default function Page() {
  return <QuestionsView />;
}
