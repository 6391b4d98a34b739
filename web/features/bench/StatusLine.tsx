'use client';

import { actInWords } from '@kinkajou/core/edits/acts';
import { useQuery } from '@tanstack/react-query';
import type { DerivedMapRow } from '@/server/services/derivedMaps';
import type { Health } from '@/server/services/health';
import { KeyCaps } from '@/ui/commands/KeyList';
import { run } from '@/ui/commands/registry';
import { COMMANDS, type CommandId, labelOf } from '@/ui/commands/table';
import { useConnection } from '@/ui/connection';
import { Mark } from '@/ui/Mark';
import { type HandoffEntry, useHandoffs } from '../handoff/useHandoffs.ts';
import { useOpenParcels } from '../shelf/shelf.ts';
import { isRunning, useDerivedMapNews, useDerivedMaps } from '../surface/useDerivedMaps.ts';
import { useFocus } from './focus.ts';
import { usePending } from './pending.ts';
import { troubleIn } from './trouble.ts';
import { type BenchView, useBench } from './useBench.ts';

const HEALTH_MS = 15_000;

/** The last edit in words, running jobs, and the keys that matter here. */
export function StatusLine() {
  const { view, busy } = useBench();
  const set = useFocus((state) => state.set);
  const done = view.log.filter((entry) => !entry.undone);
  const last = done.at(-1);
  const act = actInWords(done.filter((entry) => entry.act === last?.act).map(({ text }) => text));
  const undone = view.log.find((entry) => entry.undone);
  const back = actInWords(
    view.log.filter((entry) => entry.undone && entry.act === undone?.act).map(({ text }) => text),
  );
  return (
    <footer className="flex h-7 items-center gap-4 border-t border-[var(--line)] bg-base-300 px-3.5 text-[12px] text-[var(--soft)]">
      <button
        type="button"
        className="min-w-0 cursor-pointer truncate text-left"
        onClick={() => set({ dialog: 'log' })}
        title={labelOf('log', 'Open the edit log')}
        aria-live="polite"
      >
        {busy && 'saving ...'}
        {!busy && last && <LastEdit text={act} from={last.from === 'hand' ? '' : last.detail} />}
        {!busy && !last && (undone ? 'As delivered.' : 'As delivered; nothing was changed yet.')}
        {!busy && undone && <span title={back}>{` Taken back: ${back}`}</span>}
      </button>
      <span className="flex-1" />
      <Key command="mend" word="mend" />
      <Key command="nextFinding" word="next" />
      <Key command="pick" word="pick" />
      <button type="button" className="cursor-pointer whitespace-nowrap" onClick={() => run('commands')}>
        <Key command="commands" word="all" />
      </button>
      <button type="button" className="cursor-pointer whitespace-nowrap" onClick={() => run('keys')}>
        <Key command="keys" word="keys" />
      </button>
      <Jobs assetId={view.id} looked={view.looked} />
    </footer>
  );
}

function LastEdit({ text, from }: { text: string; from: string }) {
  const [first, ...rest] = text.split(' ');
  return (
    <>
      <b className="font-semibold text-base-content">{first}</b> {rest.join(' ')}
      {from && ` (${from})`}
    </>
  );
}

function Key({ command, word }: { command: CommandId; word: string }) {
  return (
    <span className="flex items-center gap-1 whitespace-nowrap">
      <KeyCaps press={COMMANDS[command].keys[0]} /> {word}
    </span>
  );
}

/** What keeps the bench from working as it should, else what workers do. */
function Jobs({ assetId, looked }: { assetId: string; looked: BenchView['looked'] }) {
  const { lost, slow, unread } = useConnection();
  const unsent = usePending((all) => all[assetId]?.length ?? 0);
  const { data: health } = useQuery({
    queryKey: ['health'],
    queryFn: async () => (await (await fetch('/api/health')).json()) as Health,
    refetchInterval: HEALTH_MS,
  });
  const trouble = troubleIn({ lost, slow, unread, health, unsent });
  const reading = (useOpenParcels().data ?? []).filter((parcel) => parcel.state === 'reading').length;
  const running = (useHandoffs(assetId).data ?? []).find(
    (handoff) => handoff.state === 'running' || handoff.state === 'queued',
  );
  const making = (useDerivedMaps(assetId).data ?? []).find(isRunning);
  useDerivedMapNews(assetId);
  const text = textOf(running, making, reading, looked);
  if (trouble)
    return (
      <span
        role="status"
        className="flex min-w-0 shrink-0 items-center gap-1.5 font-semibold whitespace-nowrap text-base-content"
        title={trouble}
      >
        <Mark kind="doubtful" />
        <span className="max-w-[46vw] truncate">{trouble}</span>
      </span>
    );
  return <span className="max-w-72 shrink-0 truncate whitespace-nowrap">{text}</span>;
}

function textOf(
  running: HandoffEntry | undefined,
  making: DerivedMapRow | undefined,
  reading: number,
  looked: BenchView['looked'],
) {
  if (running) return `${running.doing || 'handing off'} ${Math.round(running.progress * 100)}%`;
  if (making) return `making images ${Math.round(making.progress * 100)}%`;
  if (reading > 0) return `reading ${reading} ${reading === 1 ? 'parcel' : 'parcels'}`;
  return looked.done < looked.total ? `looking at pixels, ${looked.done} of ${looked.total}` : 'worker idle';
}
