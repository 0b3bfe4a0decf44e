'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import InputBase from '@mui/material/InputBase';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { bytesAt, type BodyOf, type EntryAddress, call } from '../shared/api';
import { Chip } from '../shared/Chip';
import { offset as hex } from '../shared/format';
import { FaultNote } from '../shared/states';
import { BytesView, type ByteMark } from './BytesView';

interface Place {
  readonly at: number;
  readonly length: number;
}

interface Props {
  /** Where the bytes are, and where they are looked through. */
  readonly url: string;
  readonly entry: EntryAddress;
  readonly size: number;
  readonly height: number;
  /** A place to begin with. */
  readonly first: Place | undefined;
}

/** Bytes with a way to jump, to find, and to read the number or text that is at the pointer. */
export function BytesTools({ url, entry, size, height, first }: Props) {
  const [place, setPlace] = useState<(Place & { turn: number }) | undefined>(
    first === undefined ? undefined : { ...first, turn: 0 },
  );
  const [typed, setTyped] = useState('');
  const [message, setMessage] = useState<string>();
  const [little, setLittle] = useState(true);
  const show = (next: Place) => setPlace((before) => ({ ...next, turn: (before?.turn ?? 0) + 1 }));
  const jump = /^(0x[0-9a-f_]+|\d+)$/i.test(typed.trim()) ? Number(typed.trim().replaceAll('_', '')) : undefined;
  const find = async () => {
    setMessage(undefined);
    if (jump !== undefined) {
      if (jump < size) show({ at: jump, length: 1 });
      else setMessage(`The last byte is at ${hex(Math.max(0, size - 1))}.`);
      return;
    }
    const sought: BodyOf<'POST games/{game}/entries/{archive}/{n}/find'>['sought'] =
      /^([0-9a-f]{2}|\?\?)( ([0-9a-f]{2}|\?\?))+$/i.test(typed.trim())
        ? { is: 'bytes', bytes: typed }
        : { is: 'text', text: typed, exact: false };
    const from = place === undefined ? 0 : place.at + 1;
    try {
      const { found } = await call('POST games/{game}/entries/{archive}/{n}/find', {
        ...entry,
        body: { sought, from },
      });
      if (found === null)
        setMessage(from === 0 ? 'Not found.' : 'Not found after this point. The next search starts at the beginning.');
      if (found === null) setPlace(undefined);
      else show(found);
    } catch (error) {
      setMessage((error as Error).message);
    }
  };
  const marks: ByteMark[] = place === undefined ? [] : [{ ...place, tone: 'brass2' }];
  return (
    <>
      <Box
        component="form"
        onSubmit={(event) => {
          event.preventDefault();
          if (typed.trim() !== '') void find();
        }}
        sx={{ display: 'flex', gap: 0.75, mb: 0.75 }}
      >
        <InputBase
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
          placeholder="0x40, a text, or 52 49 ?? 46"
          inputProps={{ 'aria-label': 'Place, text or bytes to go to', className: 'mono', spellCheck: false }}
          sx={{
            flex: 1,
            height: 28,
            px: 1,
            border: '1px solid var(--line)',
            borderRadius: 1,
            background: 'var(--paper)',
            '&:focus-within': { outline: '2px solid var(--teal)' },
          }}
        />
        <Button type="submit" sx={{ py: 0 }}>
          {jump === undefined ? 'Find next' : 'Go there'}
        </Button>
      </Box>
      {message !== undefined && <FaultNote tone="brass">{message}</FaultNote>}
      <BytesView
        url={url}
        size={size}
        height={height}
        marks={marks}
        reveal={place === undefined ? undefined : { at: place.at, turn: place.turn }}
        onPick={(at) => setPlace((before) => ({ at, length: 1, turn: before?.turn ?? 0 }))}
      />
      {place !== undefined && <Readings url={url} at={place.at} size={size} little={little} onLittle={setLittle} />}
    </>
  );
}

const READ_BYTES = 24;

/** What is at a place, read as each kind of number and as text. */
function Readings({
  url,
  at,
  size,
  little,
  onLittle,
}: {
  url: string;
  at: number;
  size: number;
  little: boolean;
  onLittle: (little: boolean) => void;
}) {
  const { data } = useQuery({
    queryKey: ['bytes', url, 'read', at],
    queryFn: async ({ signal }) =>
      (await bytesAt(url, { from: at, to: Math.min(size, at + READ_BYTES), signal })).bytes,
  });
  if (data === undefined) return null;
  return (
    <Box sx={{ mt: 1 }}>
      <Box sx={{ display: 'flex', gap: 0.75, alignItems: 'center', mb: 0.5 }}>
        <span className="mono">
          {hex(at)} <span className="dim">= {at.toLocaleString('en')}</span>
        </span>
        <Box sx={{ flex: 1 }} />
        <Chip on={little} onClick={() => onLittle(true)}>
          little-endian
        </Chip>
        <Chip on={!little} onClick={() => onLittle(false)}>
          big-endian
        </Chip>
      </Box>
      <Box
        component="dl"
        className="mono"
        sx={{
          display: 'grid',
          gridTemplateColumns: '38px 1fr 38px 1fr',
          m: 0,
          '& dd': { m: 0, overflowWrap: 'anywhere' },
        }}
      >
        {readingsOf(data, little).map(([name, value]) => (
          <Box key={name} sx={{ display: 'contents' }}>
            <dt className="dim">{name}</dt>
            <dd>{value}</dd>
          </Box>
        ))}
      </Box>
    </Box>
  );
}

function readingsOf(bytes: Uint8Array, little: boolean): [string, string][] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const say = (value: number | bigint) => String(value);
  const real = (value: number) =>
    Math.abs(value) >= 1e9 ? value.toExponential(6) : String(Number(value.toPrecision(7)));
  const readings: [string, number, () => string][] = [
    ['u8', 1, () => say(view.getUint8(0))],
    ['i8', 1, () => say(view.getInt8(0))],
    ['u16', 2, () => say(view.getUint16(0, little))],
    ['i16', 2, () => say(view.getInt16(0, little))],
    ['u32', 4, () => say(view.getUint32(0, little))],
    ['i32', 4, () => say(view.getInt32(0, little))],
    ['f32', 4, () => real(view.getFloat32(0, little))],
    ['f64', 8, () => real(view.getFloat64(0, little))],
    ['u64', 8, () => say(view.getBigUint64(0, little))],
    ['text', 1, () => new TextDecoder().decode(bytes).replace(/[\p{Cc}\ufffd]/gu, '·')],
  ];
  return readings.filter(([, length]) => bytes.length >= length).map(([name, , read]) => [name, read()]);
}
