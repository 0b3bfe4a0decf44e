'use client';
import { useRef, useState } from 'react';
import { DetailedError, Upload } from 'tus-js-client';
import { tokenHeaders } from '../access/session';

export interface Sending {
  readonly files: number;
  readonly done: number;
  readonly bytes: number;
  readonly total: number;
}

export interface SendGame {
  /** @returns files that were on the server already, and stay as they are */
  send(game: string, files: readonly { file: File; path: string }[]): Promise<readonly string[]>;
  /** What has come so far stays: the same files are gone on with where they were. */
  stop(): void;
  readonly sending: Sending | undefined;
}

/** A proxy in front may take no larger bodies, and what is lost with a connection is no more than this. */
const PIECE_BYTES = 16 << 20;
/** Pauses before a piece is tried again; a server that is restarted answers within the last of them. */
const RETRY_MS = [0, 1_000, 3_000, 10_000, 30_000];

/** Sends the files of a game, one after the other, in pieces that can be gone on with after a reload. */
export function useSendGame(): SendGame {
  const [sending, setSending] = useState<Sending>();
  const under = useRef<{ upload: Upload; give: (error: Error) => void }>(undefined);
  const sendOne = (game: string, { file, path }: { file: File; path: string }, onBytes: (sent: number) => void) =>
    new Promise<'sent' | 'there'>((resolve, reject) => {
      const upload = new Upload(file, {
        endpoint: '/api/sent',
        metadata: { game, path },
        chunkSize: PIECE_BYTES,
        retryDelays: RETRY_MS,
        headers: tokenHeaders(),
        removeFingerprintOnSuccess: true,
        fingerprint: () => Promise.resolve(`zero-latch ${game}/${path} ${file.size} ${file.lastModified}`),
        onProgress: onBytes,
        onSuccess: () => resolve('sent'),
        onError: (error) => {
          const answer = error instanceof DetailedError ? error.originalResponse : null;
          if (answer?.getStatus() === 409) return resolve('there');
          return reject(new Error(answer?.getBody() || 'The server cannot be reached. What has come so far is kept.'));
        },
      });
      under.current = { upload, give: reject };
      void upload.findPreviousUploads().then(([last]) => {
        if (last !== undefined) upload.resumeFromPreviousUpload(last);
        upload.start();
      }, reject);
    });
  const send: SendGame['send'] = async (game, files) => {
    const total = files.reduce((sum, { file }) => sum + file.size, 0);
    const there: string[] = [];
    let before = 0;
    try {
      for (const [done, one] of files.entries()) {
        const show = (sent: number) => setSending({ files: files.length, done, bytes: before + sent, total });
        show(0);
        if ((await sendOne(game, one, show)) === 'there') there.push(one.path);
        before += one.file.size;
      }
      return there;
    } finally {
      under.current = undefined;
      setSending(undefined);
    }
  };
  const stop = () => {
    const { current } = under;
    void current?.upload.abort();
    current?.give(new Error('Stopped. Send the same files again to go on.'));
  };
  return { send, stop, sending };
}
