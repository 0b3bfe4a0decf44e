import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useCallback } from 'react';
import type { OverviewAnswer } from '../../server/shapes';
import { Chart, type ColourOf } from '../shared/Chart';
import { counted, size } from '../shared/format';
import type { Place } from './use-place';

/** Colours of the folders of the map, one after the other. */
const FOLDER_TOKENS = ['teal', 'slate', 'olive', 'plum', 'brass-mark', 'dim'] as const;

/** Folders as areas as large as their bytes; a click goes into one. */
export function FolderMap({
  data,
  place,
  go,
}: {
  readonly data: OverviewAnswer;
  readonly place: Place;
  readonly go: (next: Partial<Place>) => void;
}) {
  const option = useCallback(
    (colour: ColourOf) => ({
      aria: { enabled: false },
      tooltip: {
        formatter: ({ name, value, data: node }: { name: string; value: number; data: { count?: number } }) =>
          `${escaped(name)}<br>${counted(node.count ?? 0, 'entry', 'entries')}, ${size(value)}`,
        backgroundColor: colour('sheet'),
        borderColor: colour('line'),
        textStyle: { color: colour('ink'), fontSize: 12 },
      },
      series: [
        {
          type: 'treemap',
          data: data.folders.map((folder, i) => ({
            name: folder.name === '' ? 'files directly here' : folder.name,
            path: folder.path,
            value: folder.bytes,
            count: folder.count,
            itemStyle: {
              color: colour(FOLDER_TOKENS[i % FOLDER_TOKENS.length]!),
              borderColor: colour(FOLDER_TOKENS[i % FOLDER_TOKENS.length]!),
            },
            // Files right in a folder that has no others need no area of their own.
            children: (folder.under.length === 1 && folder.under[0]!.name === '' ? [] : folder.under)
              .filter(({ bytes }) => bytes > 0)
              .map(({ name, path, bytes, count }) => ({
                name: name === '' ? folder.name || 'files directly here' : name,
                path,
                value: bytes,
                count,
              })),
          })),
          roam: false,
          nodeClick: false,
          breadcrumb: { show: false },
          left: 0,
          right: 0,
          top: 0,
          bottom: 0,
          itemStyle: { borderColor: colour('paper'), borderWidth: 2, gapWidth: 1 },
          label: { color: colour('on-teal'), fontSize: 12, overflow: 'truncate' },
          upperLabel: { show: true, height: 22, color: colour('on-teal'), fontSize: 12, fontWeight: 600 },
          levels: [
            { itemStyle: { borderWidth: 0, gapWidth: 3 }, upperLabel: { show: false } },
            { itemStyle: { gapWidth: 1 } },
            { colorAlpha: [0.72, 1] },
          ],
        },
      ],
    }),
    [data],
  );
  const onPick = useCallback(
    (node: unknown) => {
      const { path } = (node ?? {}) as { path?: string };
      if (path !== undefined && path !== place.folder) go({ folder: path });
    },
    [go, place.folder],
  );
  const { total } = data;
  const up = place.folder.slice(0, Math.max(0, place.folder.lastIndexOf('/')));
  return (
    <>
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 1.5, mb: 0.75 }}>
        <Box component="h2" sx={{ m: 0, fontSize: 15 }}>
          {place.folder === '' ? 'The whole game' : place.folder}
        </Box>
        <span className="dim">
          {counted(total.count, 'entry', 'entries')}, {size(total.bytes)}
          {total.stored < total.bytes && total.bytes > 0
            ? `, packed to ${Math.round((total.stored / total.bytes) * 100)} %`
            : ''}
        </span>
        {place.folder !== '' && (
          <Button variant="text" sx={{ py: 0 }} onClick={() => go({ folder: up })}>
            Up to {up === '' ? 'the whole game' : up}
          </Button>
        )}
      </Box>
      <Chart
        label="Folders by size; the folder tree on the left has the same"
        height={250}
        option={option}
        onPick={onPick}
      />
    </>
  );
}

/** The tooltip of a chart is HTML, and names come from archives. */
function escaped(text: string): string {
  return text.replace(/[&<>"]/g, (char) => `&#${char.charCodeAt(0)};`);
}
