'use client';

import { toast } from 'sonner';
import { useChoices } from '@/ui/choices';

/** Opens the view of an asset in a window of its own, and folds it away on the bench. */
export function openViewWindow(id: string): void {
  const opened = window.open(`/views/${id}`, `kinkajou-view-${id}`, 'popup,width=1200,height=900');
  if (!opened) return void toast.error('The browser opened no window: allow this page to open some.');
  useChoices.getState().setView({ size: 'folded' });
}
