import { toast } from 'sonner';
import type { JobState } from '@/server/db/rowTypes';
import { ApiError, api } from './api.ts';

const POLL_MS = 300;

interface JobAnswer {
  state: JobState;
  progress: number;
  doing: string;
  result: unknown;
  fault: { code: string; message: string } | null;
}

/**
 * Waits for a job that the page started and tells how far it is, with a way to stop it. Returns what the job
 * made, or null where it was stopped. Throws {@link ApiError} with the job's own reason.
 */
export async function followJob<T>(id: string, title: string): Promise<T | null> {
  const note = toast.loading(title);
  try {
    for (;;) {
      const { state, progress, doing, result, fault } = await api<JobAnswer>(`/api/jobs/${id}`);
      if (state === 'done') return result as T;
      if (state === 'cancelled') return null;
      if (state === 'failed')
        throw new ApiError(fault?.message ?? `${title} failed`, fault?.code ?? 'unknown', 0);
      toast.loading(`${title}: ${doing || 'starting'}, ${Math.round(progress * 100)}%`, {
        id: note,
        action: { label: 'Stop', onClick: () => void api(`/api/jobs/${id}/cancel`, { method: 'POST' }) },
      });
      await new Promise((resolve) => setTimeout(resolve, POLL_MS));
    }
  } finally {
    toast.dismiss(note);
  }
}
