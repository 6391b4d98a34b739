import { redirect } from 'next/navigation';
import { firstStep } from '@/server/services/firstStep';

export const dynamic = 'force-dynamic';

/** An asset opens where its first doubt is. */
export default async function AssetPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  redirect(`/assets/${id}/${await firstStep(id)}`);
}
