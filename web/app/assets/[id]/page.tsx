import { redirect } from 'next/navigation';

export default async function AssetPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  redirect(`/assets/${id}/slots`);
}
