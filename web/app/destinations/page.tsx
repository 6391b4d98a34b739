import { DESTINATIONS } from '@kinkajou/core/destinations/destinations';
import { AppStrip } from '@/ui/AppStrip';
import { channelTitle, plural } from '@/ui/format';

export const metadata = { title: 'Destinations' };

/** What each destination wants, as its profile says. */
export default function Page() {
  return (
    <div className="flex h-full flex-col">
      <AppStrip />
      <div className="bar">
        <h1 className="text-[14px] font-bold">Destinations</h1>
        <span className="text-[var(--soft)]">{plural(DESTINATIONS.length, 'destination')}</span>
      </div>
      <main className="min-h-0 flex-1 overflow-auto p-4">
        {DESTINATIONS.map((destination) => (
          <section key={destination.id} className="mb-4 max-w-4xl rounded-md border border-[var(--line)] bg-base-100">
            <div className="bar">
              <h2 className="font-semibold">{destination.title}</h2>
              <span className="font-mono text-[11.5px] text-[var(--soft)]">{destination.id}</span>
              <span className="flex-1" />
              <a
                className="act"
                download={`${destination.id}.json`}
                href={`data:application/json,${encodeURIComponent(`${JSON.stringify(destination, null, 2)}\n`)}`}
                title="The profile as a file; change it and name it to the command line with --to"
              >
                Export as JSON
              </a>
            </div>
            <p className="px-3 py-2">{destination.summary}.</p>
            <dl className="grid grid-cols-4 gap-2 px-3 pb-3 text-[12.3px]">
              <div>
                <dt className="text-[var(--soft)]">Up axis, unit</dt>
                <dd>
                  {destination.upAxis}, {destination.metresPerUnit} m
                </dd>
              </div>
              <div>
                <dt className="text-[var(--soft)]">Polygons</dt>
                <dd>{destination.triangulate ? 'cut into triangles' : 'kept'}</dd>
              </div>
              <div>
                <dt className="text-[var(--soft)]">Normal</dt>
                <dd>{destination.normalY}</dd>
              </div>
              <div>
                <dt className="text-[var(--soft)]">Files</dt>
                <dd>{destination.variants.join(' or ')}</dd>
              </div>
            </dl>
            {destination.notes.length > 0 && (
              <ul className="list-disc px-3 pb-3 pl-7 text-[12.3px] text-[var(--soft)]">
                {destination.notes.map((note) => (
                  <li key={note}>{note}</li>
                ))}
              </ul>
            )}
            <table className="sheet-table">
              <thead>
                <tr>
                  <th>Map</th>
                  <th>Suffix</th>
                  <th>Components</th>
                  <th>Depth</th>
                  <th>Colour space</th>
                </tr>
              </thead>
              <tbody>
                {destination.maps.map((map) => (
                  <tr key={map.name}>
                    <td className="font-semibold">{map.name}</td>
                    <td className="font-mono text-[11.5px]">
                      {destination.prefix}…_{map.suffix}
                    </td>
                    <td>
                      {[...map.components, ...(map.alpha ? [map.alpha] : [])].map((component, i) => (
                        <span key={`${i} ${component.channel}`} className="mr-3 whitespace-nowrap">
                          <b className="font-mono text-[11px]">{'rgba'[i]}</b> {channelTitle(component.channel)}
                        </span>
                      ))}
                    </td>
                    <td>
                      {map.type.toUpperCase()}, {typeof map.depth === 'number' ? `${map.depth} bit` : map.depth}
                    </td>
                    <td className="font-mono text-[11.5px]">{map.space}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </section>
        ))}
      </main>
    </div>
  );
}
