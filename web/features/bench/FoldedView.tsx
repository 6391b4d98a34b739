'use client';

import { PanelRightOpen } from 'lucide-react';
import { useChoices } from '@/ui/choices';
import { IconButton } from '@/ui/IconButton';
import { useViewSize } from './viewSize.ts';

/** What is left of the view while it is folded: nothing of what draws it is loaded. */
export function FoldedView() {
  const { unfolded } = useViewSize();
  const setView = useChoices((state) => state.setView);
  return (
    <aside
      className="grid h-full justify-items-center border-l border-[var(--line)] bg-base-200 pt-2"
      style={{ alignContent: 'start' }}
    >
      <IconButton command="viewSize" label="Unfold the view" onClick={() => setView({ size: unfolded })}>
        <PanelRightOpen size={15} />
      </IconButton>
    </aside>
  );
}
