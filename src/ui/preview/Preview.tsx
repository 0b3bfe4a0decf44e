'use client';
import Box from '@mui/material/Box';
import type { FilmFacts, FormFacts, KindName, MeshFacts, PictureFacts, SoundFacts } from '../../server/shapes';
import { formView, type SubjectAddress } from '../forms';
import { FaultNote } from '../shared/states';
import { FilmPlayer } from './FilmPlayer';
import { MeshView } from './MeshView';
import { PictureView } from './PictureView';
import { SoundView } from './SoundView';
import { JsonPreview } from './JsonPreview';
import { TextView } from './TextView';

export interface PreviewProps {
  /** Where the plain bytes are. */
  readonly url: string;
  readonly kind: KindName;
  readonly mime: string;
  readonly name: string;
  readonly size: number;
  /** What is known of it as a picture. */
  readonly picture: PictureFacts | null;
  /** Set for a sound whose archive says what it is. */
  readonly sound: SoundFacts | null;
  readonly mesh: MeshFacts | null;
  readonly film: FilmFacts | null;
  /** Of a form in the registry. */
  readonly facts: FormFacts | null;
  /** Below which its renditions are. */
  readonly subject: SubjectAddress;
  /** Why it cannot be shown as what it is. */
  readonly trouble: string | null;
  readonly large?: boolean;
}

/** An entry as what it is, or an honest word that no one knows. */
export function Preview(props: PreviewProps) {
  const { url, film } = props;
  if (film === null) return <OwnPreview {...props} />;
  if (film.packet === null) return <FilmPlayer url={url} film={film} />;
  return (
    <>
      <FilmPlayer url={url} film={film} />
      <Box sx={{ mt: 1.5, mb: 0.5 }} className="dim">
        This packet of it, at {film.packet.at.toFixed(2)} s
      </Box>
      <OwnPreview {...props} kind={/\.(txt|srt)$/i.test(props.name) ? 'words' : 'bytes'} />
    </>
  );
}

/** Sounds that every browser plays; the others are played as WAVE. */
const PLAYED = /^audio\/(mpeg|ogg|flac|wav)$/;

function OwnPreview({
  url,
  kind,
  mime,
  name,
  size,
  picture,
  sound,
  mesh,
  facts,
  subject,
  trouble,
  large = false,
}: PreviewProps) {
  const form = facts === null ? undefined : formView(facts.form);
  if (form !== undefined) return <form.View facts={facts!} subject={subject} large={large} />;
  if (picture !== null) {
    const source = picture.direct ? { url, packed: false } : { url: url.replace(/bytes$/, 'picture'), packed: true };
    return <PictureView source={source} name={name} height={large ? 480 : 190} facts={picture} />;
  }
  if (mesh !== null) return <MeshView url={url.replace(/bytes$/, 'model')} name={name} height={large ? 460 : 260} />;
  if (trouble !== null) return <FaultNote tone="brass">{trouble}</FaultNote>;
  if (sound?.trouble != null) return <FaultNote tone="brass">{sound.trouble}</FaultNote>;
  if (sound !== null || kind === 'sound')
    return (
      <SoundView url={sound !== null || !PLAYED.test(mime) ? url.replace(/bytes$/, 'sound') : url} name={name} walks />
    );
  if (kind === 'records' && name.endsWith('.json'))
    return <JsonPreview url={url} name={name} height={large ? 520 : 240} size={size} />;
  if (kind === 'words' || kind === 'records')
    return <TextView url={url} name={name} height={large ? 520 : 240} size={size} />;
  return (
    <Box sx={{ border: '1px dashed var(--line)', borderRadius: 1, p: 2 }} className="dim">
      No form is known for this entry{mime === 'application/octet-stream' ? '' : ` (${mime})`}. Its bytes can be looked
      at, taken out and replaced.
    </Box>
  );
}
