'use client';

import dynamic from 'next/dynamic';
import { type ComponentType, useState } from 'react';
import { Button } from '@/ui/Button';
import { plural, when } from '@/ui/format';
import { Modal } from '@/ui/Modal';
import { patiently } from '@/ui/patiently';
import { ConvertDialog } from '../colour/ConvertDialog.tsx';
import { ConflictDialog } from '../links/ConflictDialog.tsx';
import { DeliveryDialog } from '../links/DeliveryDialog.tsx';
import { JoinDialog } from '../parts/JoinDialog.tsx';
import { useLearnRules } from '../rulebooks/useRulebooks.ts';
import { FormDialog } from '../slots/FormDialog.tsx';
import { SlotPicker } from '../slots/SlotPicker.tsx';
import { TemplateDialog } from '../slots/TemplateDialog.tsx';
import { MakeDialog } from '../surface/MakeDialog.tsx';
import { MetalDialog } from '../surface/MetalDialog.tsx';
import { ShelfDialog } from '../surface/ShelfDialog.tsx';
import { type Dialog, useFocus } from './focus.ts';
import { useBench } from './useBench.ts';

// What draws in three dimensions, and charts, come when they are asked for: the page is there sooner.
const StillsDialog = dynamic(
  () => patiently(() => import('../viewport/StillsDialog.tsx')).then((module) => module.StillsDialog),
  { ssr: false },
);
const TakeoffDialog = dynamic(
  () => patiently(() => import('../parts/TakeoffDialog.tsx')).then((module) => module.TakeoffDialog),
  { ssr: false },
);

/** Dialogs of the bench, one at a time. */
export function Dialogs() {
  const dialog = useFocus((state) => state.dialog);
  const set = useFocus((state) => state.set);
  const close = () => set({ dialog: null });
  const Shown = dialog && DIALOGS[dialog];
  return (
    <>
      {Shown && <Shown close={close} />}
      <ConflictDialog />
    </>
  );
}

const DIALOGS: Record<NonNullable<Dialog>, ComponentType<{ close: () => void }>> = {
  log: LogDialog,
  evidence: EvidenceDialog,
  picker: SlotPicker,
  deliveries: DeliveryDialog,
  templates: TemplateDialog,
  form: FormDialog,
  convert: ConvertDialog,
  make: MakeDialog,
  metal: MetalDialog,
  shelf: ShelfDialog,
  stills: StillsDialog,
  takeoff: TakeoffDialog,
  join: JoinDialog,
};

function LogDialog({ close }: { close: () => void }) {
  const bench = useBench();
  const { log, skipped } = bench.view;
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set());
  const choose = (seq: number) => {
    const next = new Set(chosen);
    if (!next.delete(seq)) next.add(seq);
    setChosen(next);
  };
  return (
    <Modal title="Edit log" close={close} wide>
      <ol className="max-h-[60vh] overflow-auto p-2">
        <LogRow
          number={0}
          text="As delivered"
          detail=""
          time=""
          undone={false}
          go={() => bench.jump(0)}
          disabled={!bench.canUndo}
        />
        {log.map((entry) => (
          <LogRow
            key={entry.seq}
            number={entry.seq}
            text={entry.text}
            detail={`${entry.from}${entry.detail ? `: ${entry.detail}` : ''}`}
            time={when(entry.at)}
            undone={entry.undone}
            chosen={chosen.has(entry.seq)}
            choose={() => choose(entry.seq)}
            go={() => bench.jump(entry.seq)}
            disabled={entry.seq === log.filter((other) => !other.undone).length}
          />
        ))}
      </ol>
      {skipped.length > 0 && (
        <p className="border-t border-[var(--line)] p-3 text-error">
          No longer applies: {skipped.join('; ')}
        </p>
      )}
      {log.length > 0 && (
        <LearnRow
          edits={chosen.size > 0 ? [...chosen] : log.filter(({ undone }) => !undone).map(({ seq }) => seq)}
          all={chosen.size === 0}
        />
      )}
    </Modal>
  );
}

/** What was decided once becomes a rulebook. */
function LearnRow({ edits, all }: { edits: readonly number[]; all: boolean }) {
  const { view } = useBench();
  const learn = useLearnRules(`/api/assets/${view.id}/rules`);
  return (
    <div className="flex items-center gap-3 border-t border-[var(--line)] p-3">
      <Button disabled={learn.isPending || edits.length === 0} onClick={() => learn.mutate({ edits })}>
        Make rules of {all ? `all ${edits.length}` : plural(edits.length, 'edit')}
      </Button>
      <span className="text-[12px] text-[var(--soft)]">
        Names in them become patterns, to be tried on the shelf and changed.
      </span>
    </div>
  );
}

function LogRow({
  number,
  text,
  detail,
  time,
  undone,
  chosen,
  choose,
  go,
  disabled,
}: {
  number: number;
  text: string;
  detail: string;
  time: string;
  undone: boolean;
  chosen?: boolean;
  choose?: () => void;
  go: () => void;
  disabled: boolean;
}) {
  return (
    <li
      className={`flex items-center gap-3 border-b border-[var(--line-soft)] px-2 py-1.5 ${undone ? 'opacity-50' : ''}`}
    >
      {choose ? (
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          aria-label={`Choose ${text}`}
          checked={chosen}
          onChange={choose}
        />
      ) : (
        <span className="w-4" />
      )}
      <span className="w-6 text-right font-mono text-[11.5px] text-[var(--soft)]">{number}</span>
      <span className="min-w-0 flex-1">
        <span className={`block break-words ${undone ? 'line-through' : ''}`}>{text}</span>
        {detail && <span className="block text-[11.5px] break-words text-[var(--soft)]">{detail}</span>}
      </span>
      <span className="text-[11.5px] whitespace-nowrap text-[var(--soft)]">{undone ? 'undone' : time}</span>
      <Button disabled={disabled} onClick={go}>
        Go here
      </Button>
    </li>
  );
}

function EvidenceDialog({ close }: { close: () => void }) {
  const { view } = useBench();
  const key = useFocus((state) => state.finding);
  const finding = view.findings.find((other) => other.key === key);
  if (!finding) return null;
  return (
    <Modal title={finding.title} close={close}>
      <div className="grid gap-3 p-4">
        <p>{finding.message}</p>
        <ul className="list-disc pl-5 text-[12.5px] break-words text-[var(--soft)]">
          {finding.evidence.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
        <p className="font-mono text-[11.5px] text-[var(--soft)]">
          {finding.code}, {finding.severity}
        </p>
      </div>
    </Modal>
  );
}
