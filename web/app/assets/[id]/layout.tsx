import type { ReactNode } from 'react';
import { Bench } from '@/features/bench/Bench';

/** The bench itself; the step's page beneath it only names the step. */
export default async function BenchLayout({
  params,
  children,
}: {
  params: Promise<{ id: string }>;
  children: ReactNode;
}) {
  const { id } = await params;
  return (
    <>
      <Bench id={id} />
      {children}
    </>
  );
}
