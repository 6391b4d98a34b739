'use client';

import Link from 'next/link';
import { Mark } from '@/ui/Mark';
import { useBench } from '../bench/useBench.ts';
import { useHandoffs } from '../handoff/useHandoffs.ts';
import { StepSheet } from './StepSheet.tsx';

/** What the last handoff's files hold against what they were made from, in numbers. */
export function CompareStep() {
  const { view } = useBench();
  const handoffs = useHandoffs(view.id);
  const last = handoffs.data?.find((handoff) => handoff.receipt);
  return (
    <StepSheet title="Compare" note={last ? `source against ${last.fileName}, read back` : undefined}>
      {last?.receipt ? (
        <table className="sheet-table">
          <thead>
            <tr>
              <th />
              <th>Check</th>
              <th>Source</th>
              <th>Read back</th>
            </tr>
          </thead>
          <tbody>
            {last.receipt.readBack.checks.map((check) => (
              <tr key={check.check}>
                <td>
                  <Mark kind={check.ok ? 'fine' : 'broken'} />
                </td>
                <td className="font-semibold">{check.check}</td>
                <td>{check.expected}</td>
                <td>{check.found}</td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : (
        <div className="grid justify-items-center gap-3 py-16 text-center text-[var(--soft)]">
          <p>There is nothing to compare with yet. A handoff reads its own files back and lists the numbers here.</p>
          <Link href={`/assets/${view.id}/handoff`} className="act main">
            Go to Handoff
          </Link>
        </div>
      )}
    </StepSheet>
  );
}
