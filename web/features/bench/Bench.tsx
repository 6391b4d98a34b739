'use client';

import type { Step } from '@kinkajou/core/findings/finding';
import dynamic from 'next/dynamic';
import { usePathname } from 'next/navigation';
import { type ComponentType, type ReactNode, useEffect, useRef, useState } from 'react';
import { Group, type Layout, Panel, Separator } from 'react-resizable-panels';
import { buttonClass } from '@/ui/Button';
import { useChoices } from '@/ui/choices';
import { Link } from '@/ui/Link';
import { patiently } from '@/ui/patiently';
import { ColourStep } from '../colour/ColourStep.tsx';
import { CompareStep } from '../compare/CompareStep.tsx';
import { Docket } from '../docket/Docket.tsx';
import { HandoffStep } from '../handoff/HandoffStep.tsx';
import { LinksStep } from '../links/LinksStep.tsx';
import { PartsStep } from '../parts/PartsStep.tsx';
import { QuestionSheet } from '../questions/QuestionSheet.tsx';
import { ImageDrag } from '../slots/ImageDrag.tsx';
import { SlotsStep } from '../slots/SlotsStep.tsx';
import { IntakeStep } from '../steps/IntakeStep.tsx';
import { SurfaceStep } from '../surface/SurfaceStep.tsx';
import { Tour } from '../tour/Tour.tsx';
import { Dialogs } from './Dialogs.tsx';
import { FoldedView } from './FoldedView.tsx';
import { useFocus } from './focus.ts';
import { StatusLine } from './StatusLine.tsx';
import { useSharedFocus } from './sharedFocus.ts';
import { stepOf } from './steps.ts';
import { TopStrip } from './TopStrip.tsx';
import { BenchProvider, useBenchActions, useBenchQuery } from './useBench.ts';
import { useBenchCommands } from './useBenchCommands.ts';
import { useBenchFinders } from './useBenchFinders.ts';
import { useViewSize } from './viewSize.ts';

const Viewport = dynamic(
  () => patiently(() => import('../viewport/Viewport.tsx')).then((module) => module.Viewport),
  {
    ssr: false,
    loading: () => <aside className="bg-base-200" />,
  },
);

const STEP_VIEWS: Record<Step, ComponentType> = {
  intake: IntakeStep,
  links: LinksStep,
  slots: SlotsStep,
  colour: ColourStep,
  surface: SurfaceStep,
  parts: PartsStep,
  compare: CompareStep,
  handoff: HandoffStep,
};

/** The place where one asset is worked on. It stays while the steps change, and so does the view. */
export function Bench({ id }: { id: string }) {
  const step = stepOf(usePathname());
  const query = useBenchQuery(id);
  const bench = useBenchActions(id, query.view);
  const name = query.view?.name;
  const asking = useFocus((state) => state.question !== null);
  useBenchCommands(id, bench, step);
  useBenchFinders(id, bench);
  useSharedFocus(id, step);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another asset starts without focus
  useEffect(() => {
    useFocus.getState().set({
      finding: null,
      slot: null,
      anchor: null,
      selected: [],
      image: null,
      candidate: 0,
      images: [],
      dialog: null,
      question: null,
    });
  }, [id]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: going to another step leaves the question open
  useEffect(() => useFocus.getState().set({ question: null }), [step]);
  useEffect(() => {
    if (name) document.title = `${name} - Kinkajou`;
  }, [name]);
  if (query.error && !bench) return <Gone message={query.error.message} />;
  if (!bench)
    return <div className="grid h-full place-items-center text-[var(--soft)]">opening the asset ...</div>;
  const StepView = STEP_VIEWS[step];
  return (
    <BenchProvider value={bench}>
      <div
        className="grid h-full"
        style={{ gridTemplateRows: '54px minmax(0, 1fr) 28px', gridTemplateColumns: 'minmax(0, 1fr)' }}
      >
        <TopStrip step={step} />
        <ImageDrag>
          <main className="grid min-h-0">
            <Panels step={step}>{asking ? <QuestionSheet /> : <StepView />}</Panels>
          </main>
        </ImageDrag>
        <StatusLine />
        <Dialogs />
        <Tour ready={step === 'slots' && !asking} />
      </div>
    </BenchProvider>
  );
}

type ViewSize = ReturnType<typeof useChoices.getState>['view']['size'];

/** Width of the view while it is folded. */
const FOLDED = 34;

/**
 * Docket, step and view beside each other: dragged by what lies between them, also by arrow keys, and
 * remembered.
 */
function Panels({ step, children }: { step: Step; children: ReactNode }) {
  const { size } = useViewSize();
  const element = useRef<HTMLDivElement>(null);
  const widths = useChoices.getState().panels;
  const viewId = useViewId(size);
  const keep = (layout: Layout) => {
    const { panels, set } = useChoices.getState();
    const pixels = (share: number) => Math.round((share * (element.current?.clientWidth ?? 0)) / 100);
    set({
      panels: { docket: pixels(layout.docket), view: size === 'side' ? pixels(layout[viewId]) : panels.view },
    });
  };
  return (
    <Group
      elementRef={element}
      className="min-h-0"
      onLayoutChanged={(layout, { isUserInteraction }) => isUserInteraction && keep(layout)}
    >
      <Panel
        id="docket"
        defaultSize={widths.docket}
        minSize={200}
        maxSize={520}
        groupResizeBehavior="preserve-pixel-size"
        style={{ overflow: 'hidden' }}
      >
        <Docket step={step} />
      </Panel>
      <Handle label="Width of the docket" />
      {size !== 'full' && (
        <Panel id="step" minSize={320} style={{ overflow: 'hidden' }}>
          <section className="h-full min-h-0 min-w-0 bg-base-100" aria-label={step}>
            {children}
          </section>
        </Panel>
      )}
      {size === 'side' && <Handle label="Width of the view" />}
      <Panel
        id={viewId}
        {...limitsOf(size)}
        defaultSize={{ side: widths.view, full: undefined, folded: FOLDED }[size]}
        groupResizeBehavior={size === 'full' ? 'preserve-relative-size' : 'preserve-pixel-size'}
        style={{ overflow: 'hidden' }}
      >
        {size === 'folded' ? <FoldedView /> : <Viewport step={step} />}
      </Panel>
    </Group>
  );
}

/**
 * Another name whenever the size changes: panels that were never there together are laid out from the widths
 * that are remembered.
 */
function useViewId(size: ViewSize): string {
  const [shown, setShown] = useState({ size, turn: 0 });
  if (shown.size !== size) setShown({ size, turn: shown.turn + 1 });
  return `view-${shown.turn}`;
}

/** How narrow and wide the view may be. */
function limitsOf(size: ViewSize): { minSize: number; maxSize?: number } {
  return size === 'folded' ? { minSize: FOLDED, maxSize: FOLDED } : { minSize: 300 };
}

function Handle({ label }: { label: string }) {
  return (
    <Separator
      aria-label={label}
      className="w-px bg-[var(--line)] outline-offset-[-1px] data-[separator=active]:bg-accent data-[separator=hover]:bg-accent focus-visible:outline-2 focus-visible:outline-accent"
    />
  );
}

function Gone({ message }: { message: string }) {
  return (
    <div className="grid h-full place-content-center justify-items-center gap-3">
      <p className="text-[15px] font-semibold">This asset cannot be opened</p>
      <p className="text-[var(--soft)]">{message}</p>
      <Link href="/" className={buttonClass(true)}>
        Back to the shelf
      </Link>
    </div>
  );
}
