'use client';

import { type AssetImage, usesOfImages } from '@kinkajou/core/asset/asset';
import { joinLinks, linkEdit } from '@kinkajou/core/edits/linkEdits';
import { Truck, Upload } from 'lucide-react';
import { useMemo, useRef, useState } from 'react';
import { Bar } from '@/ui/Bar';
import { Button } from '@/ui/Button';
import { Chip } from '@/ui/Chip';
import { FileInput } from '@/ui/FileInput';
import { useFocus } from '../bench/focus.ts';
import { type Bench, useBench } from '../bench/useBench.ts';
import { DropHere } from './DropHere.tsx';
import { LinkDetails } from './LinkDetails.tsx';
import { LinkTable } from './LinkTable.tsx';
import { RuleBar } from './RuleBar.tsx';
import { UnusedImages, unusedImages } from './UnusedImages.tsx';
import { IMAGE_ACCEPT, useImageUpload } from './useImageUpload.ts';

const FILTERS = ['all', 'missing', 'found', 'embedded'] as const;
type Filter = (typeof FILTERS)[number];

/** Every path the model wrote, where it was found or why not; and what was delivered that nothing reads. */
export function LinksStep() {
  const bench = useBench();
  const { view } = bench;
  const [filter, setFilter] = useState<Filter | 'unused'>('all');
  const input = useRef<HTMLInputElement>(null);
  const upload = useImageUpload();
  const set = useFocus((state) => state.set);
  const { images } = view.state;
  const uses = useMemo(() => usesOfImages(view.state), [view.state]);
  const rows = useMemo(() => rowsOf(images, uses, filter), [images, uses, filter]);
  const unused = useMemo(() => unusedImages(view).length, [view]);
  const counts = (status: Filter) => rowsOf(images, uses, status).length;
  const safe = safeLinks(bench);
  return (
    <DropHere>
      <div
        className="grid h-full"
        style={{ gridTemplateRows: 'auto auto minmax(0, 1fr) auto', gridTemplateColumns: 'minmax(0, 1fr)' }}
      >
        <Bar className="flex-wrap gap-1">
          <h2 className="text-[14px] font-bold">Links</h2>
          {FILTERS.filter((key) => key !== 'embedded' || counts(key) > 0).map((key) => (
            <Chip key={key} aria-pressed={filter === key} onClick={() => setFilter(key)}>
              {key} {counts(key)}
            </Chip>
          ))}
          <Chip aria-pressed={filter === 'unused'} onClick={() => setFilter('unused')}>
            unused {unused}
          </Chip>
          <span className="flex-1" />
          <Button
            main
            disabled={safe.length === 0 || bench.busy}
            onClick={() => bench.apply(joinLinks(safe))}
          >
            Link safe ({safe.length})
          </Button>
          <Button title="Add images to this asset" onClick={() => input.current?.click()}>
            <Upload size={13} /> Images
          </Button>
          <Button
            title="Newer files of this asset, and a folder that is watched for them"
            onClick={() => set({ dialog: 'deliveries' })}
          >
            <Truck size={13} /> Deliveries
          </Button>
          <FileInput
            ref={input}
            data-testid="add-images"
            accept={IMAGE_ACCEPT}
            pick={(files) => void upload(files)}
          />
        </Bar>
        <div>
          <RuleBar />
        </div>
        {filter === 'unused' ? <UnusedImages /> : <LinkTable rows={rows} />}
        {filter !== 'unused' && <LinkDetails />}
      </div>
    </DropHere>
  );
}

/** Those of a status; what is missing and not asked for any more is nobody's trouble. */
function rowsOf(
  images: readonly AssetImage[],
  uses: ReadonlyMap<string, unknown>,
  status: Filter | 'unused',
): AssetImage[] {
  return images.filter(
    (image) => status === 'all' || (image.status === status && (status !== 'missing' || uses.has(image.key))),
  );
}

function safeLinks({ view }: Bench) {
  const uses = usesOfImages(view.state);
  return view.state.images
    .filter((image) => image.status === 'missing' && uses.has(image.key))
    .flatMap((image) => {
      const best = view.candidates[image.key]?.[0];
      return best?.safe ? [linkEdit(image.key, best)] : [];
    });
}
