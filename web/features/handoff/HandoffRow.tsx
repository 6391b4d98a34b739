'use client';

import { Download, GitCompareArrows, X } from 'lucide-react';
import { toast } from 'sonner';
import { api } from '@/ui/api';
import { buttonClass } from '@/ui/Button';
import { useChoices } from '@/ui/choices';
import { bytes, when } from '@/ui/format';
import { IconButton } from '@/ui/IconButton';
import { Link } from '@/ui/Link';
import { Mark, type MarkKind } from '@/ui/Mark';
import type { HandoffEntry } from './useHandoffs.ts';

const STATE_MARK: Record<HandoffEntry['state'], MarkKind> = {
  queued: 'empty',
  running: 'empty',
  done: 'fine',
  failed: 'broken',
  cancelled: 'empty',
};

/** One package: its verdict, or how far it is. */
export function HandoffRow({
  handoff,
  current,
  show,
}: {
  handoff: HandoffEntry;
  current: boolean;
  show: () => void;
}) {
  const setCompare = useChoices((choices) => choices.setCompare);
  const busy = handoff.state === 'queued' || handoff.state === 'running';
  const cancel = () =>
    void api(`/api/jobs/${handoff.id}/cancel`, { method: 'POST' }).catch((error: Error) =>
      toast.error(error.message),
    );
  const verdict = handoff.receipt?.verdict ?? handoff.state;
  return (
    <li
      className={`rounded-md border bg-base-100 px-2.5 py-1.5 ${current ? 'border-accent' : 'border-[var(--line)]'}`}
      data-handoff={handoff.state}
    >
      <div className="flex items-center gap-2">
        <Mark kind={verdict === 'with remarks' ? 'doubtful' : STATE_MARK[handoff.state]} />
        <button
          type="button"
          className="min-w-0 cursor-pointer truncate text-left font-semibold"
          title={handoff.fileName}
          onClick={show}
        >
          {handoff.fileName}
        </button>
        <span className="whitespace-nowrap text-[var(--soft)]">{busy ? handoff.doing : verdict}</span>
        <span className="flex-1" />
        <span className="text-[11.5px] whitespace-nowrap text-[var(--soft)]">
          {handoff.zipSize ? `${bytes(handoff.zipSize)}, ` : ''}
          {when(handoff.createdAt)}
        </span>
        {handoff.zip && (
          <Link
            className={buttonClass()}
            href={`/assets/${handoff.assetId}/compare`}
            onClick={() => setCompare({ a: 'edited', b: `handoff:${handoff.id}` })}
            title="See it beside the source, channel by channel"
          >
            <GitCompareArrows size={13} /> Compare
          </Link>
        )}
        {handoff.zip && handoff.state === 'done' && (
          <a className={buttonClass(true)} href={`/api/handoffs/${handoff.id}/package`} download>
            <Download size={13} /> Download
          </a>
        )}
        {busy && (
          <IconButton label="Cancel the handoff" onClick={cancel}>
            <X size={14} />
          </IconButton>
        )}
      </div>
      {busy && (
        <progress
          className="progress progress-accent mt-1 h-1.5 w-full"
          aria-label="Making the package"
          value={handoff.progress}
          max={1}
        />
      )}
      {handoff.fault && <p className="mt-1 text-[12px] break-words text-error">{handoff.fault.message}</p>}
    </li>
  );
}
