import { DIALECTS } from '@kinkajou/core/colour/dialects';
import type { Destination, OutputMap } from '@kinkajou/core/destinations/profile';
import { channelInWords, channelTitle } from '@kinkajou/core/scene/channelTitles';
import { spaceLabel } from '@/ui/format';
import { TryOn } from './TryOn.tsx';
import { GEOMETRY_WORDS } from './words.ts';

/** A built-in destination, to read: what it wants, and what that would make of an asset. */
export function DestinationSheet({ profile }: { profile: Destination }) {
  const facts: [string, string][] = [
    ['Files', profile.variants.join(' or ')],
    ['Up axis, unit', `${profile.upAxis} up, ${profile.metresPerUnit} m`],
    ['Polygons', profile.triangulate ? 'cut into triangles' : 'kept'],
    ['Normal', profile.normalY],
    ['Shading', GEOMETRY_WORDS.workflow[profile.writeAs ?? profile.workflow]],
    ['Parts', GEOMETRY_WORDS.parts[profile.parts]],
    ['Model files', GEOMETRY_WORDS.split[profile.split]],
    ['Colour words', DIALECTS[profile.dialect].title],
    [
      'Images',
      `${profile.maxSize === 0 ? 'any size' : `up to ${profile.maxSize}`}${profile.powerOfTwo ? ', powers of two' : ''}`,
    ],
    ['Tiles', profile.tiles ? 'kept' : GEOMETRY_WORDS.withoutTiles[profile.withoutTiles]],
    ['Left to you', profile.choices.length === 0 ? 'nothing' : profile.choices.join(', ')],
    ['Source file', profile.patch ? 'changed itself where it can be' : 'written anew'],
  ];
  return (
    <div className="min-h-0 overflow-auto p-4">
      <p className="mb-3 max-w-[70ch]">{profile.summary}.</p>
      <dl className="mb-4 grid grid-cols-[repeat(auto-fill,minmax(170px,1fr))] gap-x-4 gap-y-2 text-[12.3px]">
        {facts.map(([term, fact]) => (
          <div key={term}>
            <dt className="text-[11.5px] text-[var(--soft)]">{term}</dt>
            <dd>{fact}</dd>
          </div>
        ))}
      </dl>
      <table className="table table-xs table-pin-rows mb-4 rounded border border-[var(--line)]">
        <thead>
          <tr>
            <th>Map</th>
            <th>Name</th>
            <th>Components</th>
            <th>Type</th>
            <th>Colour space</th>
          </tr>
        </thead>
        <tbody>
          {profile.maps.map((map) => (
            <tr key={map.name}>
              <td className="font-semibold">{map.name}</td>
              <td className="font-mono text-[11.5px]">{profile.names.map.replace('{suffix}', map.suffix)}</td>
              <td>
                {contents(map).map(({ letters, text }) => (
                  <span key={letters} className="mr-3 inline-block whitespace-nowrap">
                    <b className="font-mono text-[11px]">{letters}</b> {text}
                  </span>
                ))}
              </td>
              <td className="whitespace-nowrap">
                {map.type.toUpperCase()}, {typeof map.depth === 'number' ? `${map.depth} bit` : map.depth}
              </td>
              <td>{spaceLabel(map.space)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {profile.notes.length > 0 && (
        <>
          <h3 className="mb-1 font-semibold">Told to the receiver</h3>
          <ul className="mb-4 list-disc pl-5 text-[12.3px]">
            {profile.notes.map((note) => (
              <li key={note}>{note}</li>
            ))}
          </ul>
        </>
      )}
      <TryOn profile={profile} />
    </div>
  );
}

/** What an image holds, a whole colour or normal told once: `rgb Base colour`, `a Opacity`. */
function contents({ components, alpha }: OutputMap): { letters: string; text: string }[] {
  const reported: { letters: string; text: string }[] = [];
  [...components, ...(alpha ? [alpha] : [])].forEach(({ channel, as, invert }, i) => {
    const text = `${channelTitle(channel)}${invert ? ', inverted' : ''}${as ? ` as ${channelInWords(as)}` : ''}${i >= components.length ? ', where not opaque' : ''}`;
    const last = reported[reported.length - 1];
    if (last?.text === text) last.letters += 'rgba'[i];
    else reported.push({ letters: 'rgba'[i], text });
  });
  return reported;
}
