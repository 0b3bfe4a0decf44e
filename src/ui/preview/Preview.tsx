'use client';
import Box from '@mui/material/Box';
import type { KindName } from '../../server/shapes';
import { PictureView } from './PictureView';
import { SoundView } from './SoundView';
import { TextView } from './TextView';

export interface PreviewProps {
  /** Where the plain bytes are. */
  readonly url: string;
  readonly kind: KindName;
  readonly mime: string;
  readonly name: string;
  readonly size: number;
  readonly large?: boolean;
}

/** An entry as what it is, or an honest word that nobody knows. */
export function Preview({ url, kind, mime, name, size, large = false }: PreviewProps) {
  const browserShows = ['image/png', 'image/jpeg', 'image/webp', 'image/gif', 'image/bmp'];
  if (kind === 'picture' && browserShows.includes(mime))
    return <PictureView url={url} name={name} height={large ? 480 : 190} />;
  if (kind === 'sound') return <SoundView url={url} name={name} walks />;
  if (kind === 'words' || kind === 'records')
    return <TextView url={url} isJson={name.endsWith('.json')} height={large ? 520 : 240} size={size} />;
  return (
    <Box sx={{ border: '1px dashed var(--line)', borderRadius: 1, p: 2 }} className="dim">
      No form is known for this entry{mime === 'application/octet-stream' ? '' : ` (${mime})`}. Its bytes can be looked
      at, taken out and replaced.
    </Box>
  );
}
