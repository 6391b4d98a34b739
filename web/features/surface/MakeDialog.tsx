'use client';

import type { AssetImage } from '@kinkajou/core/asset/asset';
import { completeParams, type ParamDefinition, type Params } from '@kinkajou/core/materials/recipes/recipe';
import { RECIPES, recipeOf } from '@kinkajou/core/materials/recipes/recipes';
import { channelInWords, channelTitle } from '@kinkajou/core/scene/channelTitles';
import type { ChannelName, Material } from '@kinkajou/core/scene/material';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useDeferredValue, useMemo } from 'react';
import type { DerivedMapPreview, DerivedMapRow } from '@/server/services/derivedMaps';
import { api, blobUrl } from '@/ui/api';
import { Button } from '@/ui/Button';
import { ChipSelect } from '@/ui/Chip';
import { fileName, plural } from '@/ui/format';
import { Modal } from '@/ui/Modal';
import { Segments } from '@/ui/Segments';
import { useBench } from '../bench/useBench.ts';
import { SliderRow } from './controls.tsx';
import { useMakeStore } from './makeStore.ts';
import { figureText, isRunning, useDerivedMaps, useDeriveMaps } from './useDerivedMaps.ts';

const CLOSE_UPS = new Set(['undo-premultiplied', 'pad-edges']);

/**
 * New images from a material's own: what they will look like beside the originals, then the real ones at full
 * size.
 */
export function MakeDialog({ close }: { close: () => void }) {
  const { view } = useBench();
  const request = useMakeStore((state) => state.request);
  const start = useDeriveMaps(view.id);
  const recipe = request && recipeOf(request.recipe);
  const definitions = recipe?.params ?? [];
  const params = useMemo(
    () => completeParams(recipe?.params ?? [], request?.params ?? {}),
    [recipe, request],
  );
  const fit = useMemo(
    () =>
      view.state.materials.filter(
        (material) => request?.materials.includes(material.key) && recipe?.refuses(material, params) === null,
      ),
    [view, request, recipe, params],
  );
  const refused = view.state.materials.find(
    (material) => request?.materials.includes(material.key) && recipe?.refuses(material, params),
  );
  const reads = fit[0] && recipe ? readsInWords(fit[0], recipe.reads(fit[0], params), view.state.images) : [];
  const required = useDeferredValue(
    JSON.stringify({ materials: fit.map(({ key }) => key).slice(0, 1), recipe: recipe?.id, params }),
  );
  const preview = useQuery({
    queryKey: ['preview', view.id, required, view.version],
    enabled: fit.length > 0,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () =>
      api<DerivedMapPreview>(`/api/assets/${view.id}/makings/preview`, {
        method: 'POST',
        body: { ...JSON.parse(required), closeUp: CLOSE_UPS.has(recipe?.id ?? '') },
      }),
  });
  if (!request || !recipe) return null;
  const set = (part: Params) =>
    useMakeStore.setState({ request: { ...request, params: { ...params, ...part } } });
  return (
    <Modal title={recipe.title} close={close} wide>
      <div className="grid max-h-[78vh] grid-cols-[minmax(0,1fr)] gap-3 overflow-auto p-4 text-[12.3px]">
        <div className="flex flex-wrap items-center gap-2">
          <ChipSelect
            aria-label="What to make"
            value={recipe.id}
            onChange={(event) =>
              useMakeStore.setState({ request: { ...request, recipe: event.target.value, params: {} } })
            }
          >
            {RECIPES.map(({ id, title }) => (
              <option key={id} value={id}>
                {title}
              </option>
            ))}
          </ChipSelect>
          <span className="text-[var(--soft)]">
            for{' '}
            {request.materials.length === 1
              ? request.materials[0]
              : plural(request.materials.length, 'material')}
          </span>
        </div>
        <p className="text-[var(--soft)]">{recipe.does} The originals stay; one undo takes it back.</p>
        {definitions.length > 0 && (
          <div className="grid gap-2">
            {definitions.map((definition) => (
              <Param
                key={`${recipe.id}/${definition.key}`}
                definition={definition}
                value={params[definition.key]}
                set={set}
              />
            ))}
          </div>
        )}
        {refused && (
          <p className="text-[var(--soft)]">
            {refused.key} is left out: {recipe.refuses(refused, params)}.
          </p>
        )}
        {reads.length > 0 && (
          <p data-testid="reads">
            Reads {reads.join(', ')}
            {fit.length > 1 ? ', and so for the others' : ''}.
          </p>
        )}
        {preview.error && fit.length > 0 && <p className="text-error">{preview.error.message}</p>}
        {preview.data && fit.length > 0 && (
          <Preview preview={preview.data} closeUp={CLOSE_UPS.has(recipe.id)} />
        )}
        {preview.isLoading && <p className="text-[var(--soft)]">looking at the pixels ...</p>}
        <div className="flex items-center gap-3">
          <Button
            main
            disabled={fit.length === 0 || start.isPending}
            onClick={() => start.mutate({ materials: fit.map(({ key }) => key), recipe: recipe.id, params })}
          >
            Make at full size{fit.length > 1 ? `, ${plural(fit.length, 'material')}` : ''}
          </Button>
        </div>
        <Made assetId={view.id} />
      </div>
    </Modal>
  );
}

/** `base colour (hull_color.png)` for each channel whose pixels are read. */
function readsInWords(
  { channels }: Material,
  names: readonly ChannelName[],
  images: readonly AssetImage[],
): string[] {
  return names.map((name) => {
    const entry = images.find(({ key }) => key === channels[name]?.map?.image);
    return `${channelInWords(name)}${entry ? ` (${fileName(entry.resolved ?? entry.written)})` : ''}`;
  });
}

function Param({
  definition,
  value,
  set,
}: {
  definition: ParamDefinition;
  value: number | string;
  set: (part: Params) => void;
}) {
  if ('choices' in definition)
    return (
      <div className="flex flex-wrap items-center gap-2">
        <span className="w-[92px] shrink-0 text-[var(--soft)]">{definition.title}</span>
        <Segments
          label={definition.title}
          value={String(value)}
          options={definition.choices.map(
            (choice) =>
              [
                choice.value,
                isChannelWord(choice.title) ? channelTitle(choice.title) : choice.title,
              ] as const,
          )}
          pick={(next) => set({ [definition.key]: next })}
        />
      </div>
    );
  const { title, min, max, step, unit, key } = definition;
  return (
    <SliderRow
      title={title}
      value={Number(value)}
      range={[min, max]}
      step={step}
      unit={unit}
      onMove={(next) => set({ [key]: next })}
      commit={(next) => set({ [key]: next })}
    />
  );
}

function isChannelWord(word: string): word is 'baseColor' {
  return /^(height|bump|baseColor|roughness|occlusion|specular)$/.test(word);
}

function Preview({ preview, closeUp }: { preview: DerivedMapPreview; closeUp: boolean }) {
  const { pictures, heat, figures, rewired } = preview;
  const side = closeUp ? 320 : 220;
  return (
    <div className="grid gap-3">
      <div className="flex flex-wrap gap-4">
        {pictures.map(({ channel, before, after }) => (
          <figure key={channel} className="flex gap-1.5">
            {before && (
              <Shot
                png={before}
                title={`${channelTitle(channel as 'baseColor')} before`}
                side={side}
                sharp={closeUp}
              />
            )}
            <Shot
              png={after}
              title={`${channelTitle(channel as 'baseColor')} after`}
              side={side}
              sharp={closeUp}
            />
          </figure>
        ))}
        {heat && <Shot png={heat.png} title={heat.title} side={side} sharp={false} heat />}
      </div>
      {(figures.length > 0 || rewired.length > 0) && (
        <ul
          className="flex flex-wrap gap-x-5 gap-y-0.5 text-[11.8px] text-[var(--soft)]"
          aria-label="Figures"
        >
          {figures.map((figure) => (
            <li key={figure.title}>{figureText(figure)}</li>
          ))}
          {rewired.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
      )}
    </div>
  );
}

function Shot({
  png,
  title,
  side,
  sharp,
  heat = false,
}: {
  png: string;
  title: string;
  side: number;
  sharp: boolean;
  heat?: boolean;
}) {
  return (
    <div>
      <img
        src={`data:image/png;base64,${png}`}
        alt={title}
        className={`checks rounded border border-[var(--line)] ${heat ? 'heat' : ''}`}
        style={{
          width: side,
          height: side,
          objectFit: 'contain',
          imageRendering: sharp ? 'pixelated' : undefined,
        }}
      />
      <span className="text-[11.5px] text-[var(--soft)]">{title}</span>
    </div>
  );
}

/** What was made, and how well. */
function whatCame(paths: string[], notes: DerivedMapRow['notes']): string {
  const figures = notes.flatMap((note) => note.figures);
  return [...paths.map(fileName), ...figures.map(figureText)].join('; ');
}

/** Of each material what went into its images by the mean alone. */
function byTheMean(notes: DerivedMapRow['notes']): string[] {
  return notes.flatMap(({ material, means = [] }) =>
    means.length > 0
      ? [`${material}: ${means.map(channelInWords).join(', ')} by the mean, since it lies elsewhere`]
      : [],
  );
}

/** Jobs of this asset with their progress and what came out. */
function Made({ assetId }: { assetId: string }) {
  const makings = useDerivedMaps(assetId).data ?? [];
  if (makings.length === 0) return null;
  return (
    <ul
      className="grid grid-cols-[minmax(0,1fr)] gap-1 border-t border-[var(--line)] pt-2"
      aria-label="Made images"
    >
      {makings.slice(0, 5).map(({ id, request, state, progress, paths, notes, fault }) => (
        <li key={id} className="flex items-center gap-2">
          <span className="min-w-0 flex-1">
            <b className="font-semibold">{recipeOf(request.recipe).title}</b>,{' '}
            {request.materials.length === 1
              ? request.materials[0]
              : plural(request.materials.length, 'material')}
            <span className="block truncate text-[11.5px] text-[var(--soft)]" title={paths.join('\n')}>
              {fault ? fault.message : whatCame(paths, notes) || state}
            </span>
            {byTheMean(notes).map((line) => (
              <span key={line} className="block text-[11.5px] text-[var(--soft)]">
                {line}
              </span>
            ))}
          </span>
          {notes.map(
            ({ material, heat }) =>
              heat && (
                <img
                  key={material}
                  src={blobUrl(heat.sha256)}
                  alt={`${heat.title} of ${material}`}
                  className="heat size-9 rounded border border-[var(--line)]"
                />
              ),
          )}
          {isRunning({ state }) && (
            <>
              <progress
                className="progress progress-accent w-28"
                value={progress}
                max={1}
                aria-label="Progress"
              />
              <Button onClick={() => void api(`/api/jobs/${id}/cancel`, { method: 'POST' })}>Cancel</Button>
            </>
          )}
          {!isRunning({ state }) && <span className="text-[11.5px] text-[var(--soft)]">{state}</span>}
        </li>
      ))}
    </ul>
  );
}
