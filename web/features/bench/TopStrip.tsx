'use client';

import type { Step } from '@kinkajou/core/findings/finding';
import { Redo2, Undo2 } from 'lucide-react';
import { CommandsButton, Logo, ThemeButton } from '@/ui/AppStrip';
import { labelOf } from '@/ui/commands/table';
import { Link } from '@/ui/Link';
import { StepLink } from './StepLink.tsx';
import { openOf, STEPS } from './steps.ts';
import { useBench } from './useBench.ts';

/** Asset, route of steps with their open findings, undo, redo, hand off. */
export function TopStrip({ step }: { step: Step }) {
  const bench = useBench();
  const { view } = bench;
  const here = STEPS.findIndex(({ id }) => id === step);
  return (
    <header
      className="grid h-[54px] grid-cols-[minmax(96px,266px)_minmax(0,1fr)_auto] items-center gap-1 px-3 text-[#f3ecd9] max-[860px]:grid-cols-[minmax(0,1fr)_minmax(220px,2fr)_auto]"
      style={{ background: 'var(--strip)' }}
    >
      <div className="flex min-w-0 items-center gap-2.5">
        <Link href="/" aria-label="Back to the shelf" title="Back to the shelf">
          <Logo />
        </Link>
        <div className="min-w-0">
          <h1 className="truncate text-[14.5px] font-bold" title={view.name}>
            {view.name}
          </h1>
          <small className="block truncate text-[11.5px] text-[var(--strip-soft)]" title={view.source.model}>
            <Link href="/" className="hover:underline">
              Shelf
            </Link>{' '}
            / {view.parcel.name} / {view.source.model.split('/').at(-1)}
          </small>
        </div>
      </div>
      <nav className="relative mx-1.5 grid grid-cols-8" aria-label="Steps">
        <span
          className="absolute left-[6%] right-[6%] top-[13px] h-0.5"
          style={{ background: 'var(--strip-line)' }}
        />
        {STEPS.map(({ id, title }, index) => (
          <Stop
            key={id}
            title={title}
            id={id}
            asset={view.id}
            current={id === step}
            passed={index < here}
            open={openOf(view.findings, id)}
          />
        ))}
      </nav>
      <div className="flex items-center gap-1.5">
        <CommandsButton />
        <ThemeButton />
        <button
          type="button"
          className="strip-button"
          disabled={!bench.canUndo || bench.busy}
          onClick={bench.undo}
          aria-label="Undo"
          title={labelOf('undo')}
        >
          <Undo2 size={15} />
        </button>
        <button
          type="button"
          className="strip-button"
          disabled={!bench.canRedo || bench.busy}
          onClick={bench.redo}
          aria-label="Redo"
          title={labelOf('redo')}
        >
          <Redo2 size={15} />
        </button>
        <StepLink
          asset={view.id}
          step="handoff"
          className="rounded-md bg-accent px-3 py-[7px] text-[13px] font-semibold text-accent-content hover:brightness-105"
        >
          Hand off
        </StepLink>
      </div>
    </header>
  );
}

interface StopProps {
  title: string;
  id: Step;
  asset: string;
  current: boolean;
  passed: boolean;
  open: { errors: number; warnings: number };
}

function Stop({ title, id, asset, current, passed, open }: StopProps) {
  const words = [open.errors > 0 && `${open.errors} broken`, open.warnings > 0 && `${open.warnings} doubtful`]
    .filter(Boolean)
    .join(', ');
  return (
    <StepLink
      asset={asset}
      step={id}
      className={`relative min-h-10 pt-6 text-center text-[11.5px] ${current ? 'font-semibold text-white' : 'text-[var(--strip-soft)] hover:text-white'}`}
      aria-current={current ? 'step' : undefined}
      aria-label={`${title}${words ? `, ${words}` : ''}`}
      title={labelOf(`step.${id}`, title)}
    >
      <i
        className="absolute left-1/2 -translate-x-1/2 rounded-full border-2"
        style={
          current
            ? { top: 4, width: 20, height: 20, background: 'var(--color-accent)', borderColor: '#fff3d6' }
            : {
                top: 7,
                width: 14,
                height: 14,
                background: passed ? '#8fb5a5' : 'var(--strip)',
                borderColor: '#8fb5a5',
              }
        }
      />
      <span
        className="absolute left-[calc(50%+10px)] -top-0.5 flex gap-1 max-[860px]:-top-2 max-[860px]:left-[calc(50%-3px)] text-[10.5px] font-bold whitespace-nowrap"
        aria-hidden
      >
        {open.errors > 0 && (
          <span className="text-[#ffd9cd]">
            ■ <span className="max-[860px]:hidden">{open.errors}</span>
          </span>
        )}
        {open.errors === 0 && open.warnings > 0 && (
          <span className="text-[#ffe2a6]">
            ▲ <span className="max-[860px]:hidden">{open.warnings}</span>
          </span>
        )}
      </span>
      <span
        className={
          current
            ? 'whitespace-nowrap max-[860px]:absolute max-[860px]:left-1/2 max-[860px]:-translate-x-1/2'
            : 'max-[860px]:hidden'
        }
      >
        {title}
      </span>
    </StepLink>
  );
}
