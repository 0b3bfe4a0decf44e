'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from 'next/link';
import type { RecordTable, RecordTablesAnswer } from '../../server/shapes';
import { Chip } from '../shared/Chip';
import { counted } from '../shared/format';
import { Empty, FaultNote } from '../shared/states';
import { useTallList } from '../shared/use-tall-list';
import { CellField } from './CellField';
import { ColumnHead } from './ColumnHead';
import type { RecordPlace } from './record-place';
import { shortOf, summaryOf } from './cell-words';
import { usePages, useRecordRows } from './use-record-rows';

const ROW = 34;

const CELL = 150;

const FILE = 190;

interface Props {
  readonly gameId: number;
  readonly table: RecordTable;
  readonly answer: RecordTablesAnswer;
  readonly place: RecordPlace;
  readonly go: (next: Partial<RecordPlace>) => void;
}

/** The rows of a table, of which only those in view are there. Columns sort; a value is changed by typing over it. */
export function RecordGrid({ gameId, table, answer, place, go }: Props) {
  const { sort, setSort, query, total, error } = useRecordRows(gameId, table, place);
  const { box, onScroll, height, from, to, topOf } = useTallList(total ?? 0, ROW, 8);
  const indexes = Array.from({ length: Math.max(0, to - from) }, (_, i) => from + i);
  const rowAt = usePages(gameId, indexes, query);
  const referenceOf = (column: string) => answer.references.find(({ field }) => field === `${table.name}: ${column}`);
  const usedBy = (column: string) =>
    answer.references.filter(({ to: target }) => target === `${table.name}: ${column}`);
  /** To the row that a value names. */
  const follow = (to: string, value: string) => {
    const at = to.lastIndexOf(': ');
    const target = answer.tables.find(({ name }) => name === to.slice(0, at));
    if (target !== undefined)
      go({ table: target.id, column: to.slice(at + 2), value, search: '', dangling: false, where: '' });
  };
  const width = FILE + table.columns.length * CELL;
  const rowStyle = {
    display: 'grid',
    gridTemplateColumns: `${FILE}px repeat(${table.columns.length}, ${CELL}px)`,
    width,
    minWidth: '100%',
  } as const;
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <Box sx={{ px: 2.25, py: 1, display: 'flex', gap: 0.75, alignItems: 'center', flexWrap: 'wrap' }}>
        <Box className="mono" sx={{ overflowWrap: 'anywhere' }}>
          {visible(table.name)}
        </Box>
        <span className="dim">{counted(total ?? 0, 'row')}</span>
        {place.column !== undefined && (
          <Chip on onClick={() => go({ column: undefined, value: undefined, dangling: false })} label="Show all rows">
            {place.dangling ? `${place.column} leads nowhere` : `${place.column} is ${place.value}`} ×
          </Chip>
        )}
      </Box>
      {error !== null && <FaultNote>{error.message}</FaultNote>}
      {total === 0 ? (
        <Empty
          title="No rows match"
          actions={
            <Button onClick={() => go({ search: '', column: undefined, value: undefined, dangling: false })}>
              Show all rows
            </Button>
          }
        >
          Try another part of a value.
        </Empty>
      ) : (
        <Box
          ref={box}
          onScroll={onScroll}
          role="table"
          aria-label={table.name}
          aria-rowcount={total}
          tabIndex={0}
          sx={{ flex: 1, minHeight: 0, overflow: 'auto' }}
        >
          <Box
            role="row"
            sx={{
              ...rowStyle,
              position: 'sticky',
              top: 0,
              zIndex: 2,
              background: 'var(--paper)',
              borderBottom: '1px solid var(--line)',
            }}
          >
            <ColumnHead
              name="file"
              hint=""
              order={sort?.by === 'path' ? sort.order : undefined}
              onSort={(order) => setSort(order === undefined ? undefined : { by: 'path', order })}
            />
            {table.columns.map((column) => (
              <ColumnHead
                key={column.name}
                name={column.name}
                hint={summaryOf(column)}
                isNumber={column.kind === 'whole' || column.kind === 'number'}
                order={sort?.by === column.name ? sort.order : undefined}
                onSort={(order) => setSort(order === undefined ? undefined : { by: column.name, order })}
                reference={{
                  gameId,
                  field: `${table.name}: ${column.name}`,
                  declared: referenceOf(column.name),
                  usedBy: usedBy(column.name),
                  tables: answer.tables,
                  onDangling: () => go({ column: column.name, value: undefined, dangling: true }),
                }}
              />
            ))}
          </Box>
          <Box sx={{ height, position: 'relative', width, minWidth: '100%' }}>
            {indexes.map((index) => {
              const row = rowAt(index);
              return (
                <Box
                  key={index}
                  role="row"
                  aria-rowindex={index + 2}
                  sx={{ ...rowStyle, position: 'absolute', height: ROW, borderBottom: '1px solid var(--line)' }}
                  style={{ top: topOf(index) }}
                >
                  {row !== undefined && (
                    <>
                      <Box role="rowheader" sx={{ ...cell, display: 'flex', gap: 0.75, alignItems: 'center' }}>
                        <Link
                          href={`/games/${gameId}/find?folder=${encodeURIComponent(row.path.slice(0, Math.max(0, row.path.lastIndexOf('/'))))}&sel=${row.archive}.${row.n}`}
                          title={`${row.path}${row.pointer.length > 0 ? `, ${row.pointer.join('.')}` : ''}`}
                          style={{ color: 'var(--teal)', overflow: 'hidden', textOverflow: 'ellipsis' }}
                        >
                          {shortOf(row, table)}
                        </Link>
                        {row.changed && <span style={{ color: 'var(--brass)' }}>changed</span>}
                      </Box>
                      {table.columns.map(({ name, kind }) => (
                        <CellField
                          key={`${name} ${JSON.stringify(row.values[name] ?? null)}`}
                          gameId={gameId}
                          table={table.id}
                          row={row}
                          column={name}
                          isNumber={kind === 'whole' || kind === 'number'}
                          onFollow={referenceOf(name) && ((value) => follow(referenceOf(name)!.to, value))}
                          back={usedBy(name).map(({ field }) => ({
                            field,
                            go: (value: string) => follow(field, value),
                          }))}
                        />
                      ))}
                    </>
                  )}
                </Box>
              );
            })}
          </Box>
        </Box>
      )}
    </Box>
  );
}

const cell = {
  px: 1.25,
  minWidth: 0,
  overflow: 'hidden',
  whiteSpace: 'nowrap',
  textOverflow: 'ellipsis',
} as const;
