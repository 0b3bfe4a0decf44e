'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { useRef, useState } from 'react';
import { ApiFault, call } from '../shared/api';
import { DialogFoot } from '../shared/DialogFoot';
import { FilePick } from '../shared/FilePick';
import { useNotice } from '../shared/notices';
import { useGameMutation } from '../shared/queries';

interface Props {
  readonly gameId: number;
  readonly pair: { readonly from: number; readonly to: number };
  readonly spell: boolean;
}

/** Brings a file of texts back. Texts of another language than the one that is open are asked about first. */
export function BringTexts({ gameId, pair, spell }: Props) {
  const pick = useRef<HTMLInputElement>(null);
  const say = useNotice();
  const [asked, setAsked] = useState<{ file: File; sentence: string }>();
  const bring = useGameMutation(
    gameId,
    ({ file, anyway }: { file: File; anyway: boolean }) => {
      const { from, to } = pair;
      const query = { from, to, name: file.name, spell, anyway };
      return call('POST games/{game}/words', { game: gameId, query, send: file });
    },
    { showsFault: true },
  );
  const takeIn = (file: File, anyway: boolean) =>
    bring.mutate(
      { file, anyway },
      {
        onSuccess: () => say({ tone: 'info', text: `${file.name} is taken in, text by text.` }),
        onError: (error) => {
          if (error instanceof ApiFault && error.code === 'other-language') setAsked({ file, sentence: error.message });
          else say({ tone: 'error', text: error.message });
        },
      },
    );
  return (
    <>
      <Button onClick={() => pick.current?.click()} disabled={bring.isPending}>
        Bring texts back…
      </Button>
      <FilePick
        pickRef={pick}
        label="A file of texts"
        testId="words-file"
        accept=".csv,.po,.xliff,.xlf,.json"
        onPick={(file) => takeIn(file, false)}
      />
      <Dialog open={asked !== undefined} onClose={() => setAsked(undefined)} fullWidth maxWidth="sm">
        <DialogTitle sx={{ fontSize: 16, fontWeight: 600 }}>Which language are they in?</DialogTitle>
        <DialogContent>{asked?.sentence}</DialogContent>
        <DialogFoot
          onClose={() => setAsked(undefined)}
          onClick={() => {
            setAsked(undefined);
            if (asked !== undefined) takeIn(asked.file, true);
          }}
        >
          Import them anyway
        </DialogFoot>
      </Dialog>
    </>
  );
}
