import { ViewWindow } from '@/features/bench/ViewWindow';

/** The view of an asset in a window of its own. */
export default async function ViewPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return <ViewWindow id={id} />;
}
