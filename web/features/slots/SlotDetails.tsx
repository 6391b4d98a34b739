'use client';

import {
  adjustEdit,
  clearEdit,
  notEmpty,
  splitEdit,
  valueEdit,
  withMap,
} from '@kinkajou/core/edits/slotEdits';
import { channelTitle } from '@kinkajou/core/scene/channelTitles';
import { type Channel, COLOUR_CHANNELS, COMPONENTS, unitValue } from '@kinkajou/core/scene/material';
import { useEffect, useState } from 'react';
import { pictureUrl } from '@/ui/api';
import { Button } from '@/ui/Button';
import { Chip } from '@/ui/Chip';
import { Field } from '@/ui/Field';

import { Segments } from '@/ui/Segments';
import { useFocus } from '../bench/focus.ts';
import { useBench } from '../bench/useBench.ts';
import { TagSelect } from '../colour/TagSelect.tsx';
import { CandidateRow } from '../links/CandidateRow.tsx';

/** What images of so many components hold. */
const COMPONENT_NAMES: Record<number, string> = { 1: 'grey', 2: 'grey, alpha', 3: 'rgb', 4: 'rgba' };

/** Everything about the focused slot; its controls act on all selected slots. */
export function SlotDetails() {
  const bench = useBench();
  const { view } = bench;
  const { slot, selected, set } = useFocus();
  const material = slot && view.state.materials.find((other) => other.key === slot.material);
  if (!slot || !material)
    return (
      <div className="border-t border-[var(--line)] bg-base-200 p-4 text-[var(--soft)]">
        Choose a slot: click it, or move with the arrows.
      </div>
    );
  const channel = material.channels[slot.channel] ?? null;
  const map = channel?.map ?? null;
  const entry = map ? view.state.images.find((image) => image.key === map.image) : null;
  const file = entry?.resolved ? view.images.find((image) => image.path === entry.resolved) : null;
  const found = file ? view.detected.find((one) => one.path === file.path) : undefined;
  const split = slot && splitEdit(slot, view);
  const mapped = withMap(selected, view.state.materials);
  const adjust = (change: Parameters<typeof adjustEdit>[1]) => bench.apply([adjustEdit(mapped, change)]);
  const candidates = entry
    ? (view.candidates[entry.key] ?? []).filter((candidate) => candidate.path !== entry.resolved).slice(0, 2)
    : [];
  return (
    <section
      className="grid max-h-[46vh] min-h-[min(186px,40vh)] grid-cols-[64px_minmax(0,1fr)] @[420px]:grid-cols-[150px_minmax(0,1fr)] gap-3.5 overflow-auto border-t border-[var(--line)] bg-base-200 px-3.5 py-2.5 @[1040px]:max-h-none @[1040px]:grid-cols-[minmax(0,1fr)] @[1040px]:content-start @[1040px]:border-t-0 @[1040px]:border-l"
      aria-label="Slot details"
    >
      <Preview
        hash={file?.info ? file.sha256 : null}
        missing={map !== null}
        value={channel}
        name={entry?.written ?? ''}
      />
      <div className="grid auto-rows-min grid-cols-[minmax(0,1fr)] gap-[7px]">
        <Row label="Slot">
          <b>
            {slot.material}, {channelTitle(slot.channel)}
          </b>
          {selected.length > 1 && <span className="text-accent"> and {selected.length - 1} more</span>}
          {file?.info && (
            <span className="ml-1.5 inline-block font-mono text-[11.5px] text-[var(--soft)]">
              {file.info.width} × {file.info.height}, {file.info.bitDepth} bit
              {file.info.floating ? ' float' : ''}, {COMPONENT_NAMES[file.info.components]}
            </span>
          )}
        </Row>
        {map && (
          <Row label="Component">
            <span className="flex flex-wrap gap-2">
              <Segments
                label="Component"
                options={COMPONENTS.map((value) => [value, value === 'luminance' ? 'lum' : value])}
                value={map.component}
                pick={(component) => adjust({ component })}
              />
              <Segments
                label="Inversion"
                options={[
                  [false, 'x'],
                  [true, '1-x'],
                ]}
                value={map.invert}
                pick={(invert) => adjust({ invert })}
              />
              {slot.channel === 'normal' && (
                <Segments
                  label="Normal direction"
                  options={[
                    ['Y+', 'Y+'],
                    ['Y-', 'Y−'],
                  ]}
                  value={map.normalY}
                  pick={(normalY) => adjust({ normalY })}
                />
              )}
              <TagSelect value={map.space} change={(space) => adjust({ space })} />
              {COLOUR_CHANNELS.has(slot.channel) && (map.exponent ?? 1) !== 1 && (
                <Chip title="Take the exponent back" onClick={() => adjust({ exponent: 1 })}>
                  exponent {map.exponent?.toFixed(3)} ×
                </Chip>
              )}
            </span>
          </Row>
        )}
        {map && slot.channel === 'normal' && (
          <Row label="Vectors">
            <Segments
              label="Repair of vectors"
              options={[
                ['none', 'as stored'],
                ['unit', 'unit length'],
                ['blue', 'blue rebuilt'],
              ]}
              value={map.repair ?? 'none'}
              pick={(repair) => adjust({ repair })}
            />
          </Row>
        )}
        {found && (
          <Row label="Looks like">
            <span
              className="narrow block truncate text-[12px] text-[var(--soft)]"
              title={found.evidence.join('\n')}
            >
              {found.readings
                .map(
                  (reading) =>
                    `${found.packed ? `${reading.component} ` : ''}${channelTitle(reading.channel)}`,
                )
                .join(', ') || 'nothing known'}{' '}
              ({found.confidence.toFixed(2)}): {found.evidence.join('; ')}
            </span>
          </Row>
        )}
        <Row label={map ? 'Times' : 'Value'}>
          <ValueEditor
            key={`${slot.material}/${slot.channel}`}
            value={channel?.value ?? null}
            unit={unitValue(slot.channel)}
            colour={COLOUR_CHANNELS.has(slot.channel)}
            change={(value) => bench.apply([valueEdit(selected, value)])}
          />
        </Row>
        {entry && (
          <Row label="Written path">
            <span className="block truncate font-mono text-[11.5px]" title={entry.written}>
              {entry.written}
            </span>
          </Row>
        )}
        {channel && (
          <Row label="Source">
            <span
              className="narrow block truncate text-[12px] text-[var(--soft)]"
              title={channel.source.detail}
            >
              {channel.source.from}: {channel.source.detail}
              {entry?.how && `; ${entry.how}`}
            </span>
          </Row>
        )}
        {entry && candidates.length > 0 && (
          <Row label="Candidates">
            <span className="grid grid-cols-[minmax(0,1fr)] gap-1">
              {candidates.map((candidate) => (
                <CandidateRow key={candidate.path} candidate={candidate} image={entry} />
              ))}
            </span>
          </Row>
        )}
        <div className="flex gap-1.5">
          <Button main onClick={() => set({ dialog: 'picker' })}>
            {map ? 'Other image' : 'Pick an image'}
          </Button>
          <Button
            disabled={notEmpty(selected, view.state.materials).length === 0 || bench.busy}
            onClick={() => bench.apply([clearEdit(notEmpty(selected, view.state.materials))])}
          >
            Clear
          </Button>
          {split && (
            <Button
              disabled={bench.busy}
              title="One image over three slots (S): by its name, else r occlusion, g roughness, b metalness"
              onClick={() => bench.apply([split])}
            >
              Split r g b
            </Button>
          )}
        </div>
      </div>
    </section>
  );
}

function Row({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <div
      className="grid items-center gap-2.5 text-[12.3px]"
      style={{ gridTemplateColumns: '80px minmax(0, 1fr)' }}
    >
      <span className="text-[var(--soft)]">{label}</span>
      <div className="min-w-0">{children}</div>
    </div>
  );
}

function Preview({
  hash,
  missing,
  value,
  name,
}: {
  hash: string | null;
  missing: boolean;
  value: Channel | null;
  name: string;
}) {
  if (hash)
    return (
      <div
        role="img"
        aria-label={name}
        className="h-16 @[420px]:h-[150px] rounded-[5px] border border-black/20 bg-cover bg-center"
        style={{ backgroundImage: `url(${pictureUrl(hash, 384)})` }}
      />
    );
  if (missing)
    return (
      <div className="missing-stripes grid h-16 @[420px]:h-[150px] place-items-center rounded-[5px] border border-error font-semibold text-error">
        missing
      </div>
    );
  return (
    <div className="grid h-16 @[420px]:h-[150px] place-items-center rounded-[5px] border border-dashed border-[var(--line)] text-[var(--soft)]">
      {value ? 'a value, no map' : 'empty'}
    </div>
  );
}

interface ValueEditorProps {
  value: Channel['value'] | null;
  unit: Channel['value'];
  colour: boolean;
  change: (value: Channel['value']) => void;
}

/** One number, or three for colours; taken on Enter or when the field is left. */
function ValueEditor({ value, unit, colour, change }: ValueEditorProps) {
  const shown = shownValue(value);
  const [text, setText] = useState(shown);
  useEffect(() => setText(shown), [shown]);
  const take = () => {
    const numbers = text
      .split(/[\s,;]+/)
      .filter(Boolean)
      .map(Number);
    if (text === shown || numbers.length === 0 || numbers.some((number) => !Number.isFinite(number)))
      return setText(shown);
    change(
      typeof unit === 'number'
        ? numbers[0]
        : [numbers[0], numbers[1] ?? numbers[0], numbers[2] ?? numbers[0]],
    );
  };
  return (
    <Field
      className="w-40 font-mono text-[11.5px]"
      aria-label="Value"
      value={text}
      placeholder={typeof unit === 'number' ? 'none' : 'none; r g b'}
      title={colour ? 'Linear r g b; Enter takes it' : 'Enter takes it'}
      onChange={(event) => setText(event.target.value)}
      onBlur={take}
      onKeyDown={(event) => {
        if (event.key === 'Enter') event.currentTarget.blur();
        if (event.key === 'Escape') setText(shown);
      }}
    />
  );
}

function shownValue(value: ValueEditorProps['value']): string {
  if (value === null) return '';
  return typeof value === 'number' ? String(round(value)) : value.map(round).join(' ');
}

function round(value: number): number {
  return Math.round(value * 1000) / 1000;
}
