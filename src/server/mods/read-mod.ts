/** Mod files as they come from someone: checked before anything of them is believed. */
import { open } from 'node:fs/promises';
import { Reader, TextWriter, ZipReader, type Entry, type FileEntry } from '@zip.js/zip.js';
import { FaultError, sayIssue } from '../../core/faults';
import { MOD_MANIFEST, modFile, type ModFile } from '../../core/game';
import { blobPath, keepBlob, type Blob } from '../storage';

const MOST_MANIFEST = 32 << 20;

export interface OpenMod {
  readonly manifest: ModFile;
  /** Bytes of the ZIP itself. */
  readonly size: number;
  /** Keeps a file of the ZIP. @throws FaultError `limit-reached` beyond `most` bytes, `not-found` */
  keep(name: string, most: number): Promise<Blob>;
}

/** @throws FaultError `wrong-kind` with what is wrong, when it is no mod file */
export async function withMod<T>(blob: string, fileName: string, work: (mod: OpenMod) => Promise<T>): Promise<T> {
  const handle = await open(blobPath(blob), 'r');
  const { size } = await handle.stat();
  const reader = new (class extends Reader<undefined> {
    override size = size;
    override async readUint8Array(at: number, length: number): Promise<Uint8Array> {
      const bytes = new Uint8Array(Math.max(0, Math.min(length, size - at)));
      const { bytesRead } = await handle.read(bytes, 0, bytes.length, at);
      return bytes.subarray(0, bytesRead);
    }
  })(undefined);
  const zip = new ZipReader(reader, { useWebWorkers: false, checkSignature: true });
  const wrong = (what: string, more: object = {}) =>
    new FaultError({ code: 'wrong-kind', file: fileName, what, ...more });
  try {
    const entries = await zip.getEntries().catch(() => {
      throw wrong('this is no ZIP', { hint: 'A mod file is a ZIP with mod.json in it.' });
    });
    const files = new Map(entries.filter(isFile).map((entry) => [entry.filename, entry]));
    const manifest = files.get(MOD_MANIFEST);
    if (manifest === undefined)
      throw wrong(`there is no ${MOD_MANIFEST} in it`, { hint: 'Is it a mod for Zero Latch?' });
    if (manifest.uncompressedSize > MOST_MANIFEST) throw wrong(`${MOD_MANIFEST} is too large`);
    return await work({
      size,
      manifest: parsed(await manifest.getData(new TextWriter()), wrong),
      keep: async (name, most) => {
        const entry = files.get(name);
        if (entry === undefined) throw wrong('a file it names is not in it', { expected: name });
        const { readable, writable } = new TransformStream<Uint8Array, Uint8Array>();
        const written = entry.getData(writable).catch(() => {
          throw wrong('a file in it is damaged', { found: name });
        });
        const [kept] = await Promise.all([keepBlob(chunksOf(readable), { maxBytes: most }), written]);
        return kept;
      },
    });
  } finally {
    await zip.close().catch(() => {});
    await handle.close();
  }
}

const isFile = (entry: Entry): entry is FileEntry => !entry.directory;

function parsed(text: string, wrong: (what: string, more?: object) => FaultError): ModFile {
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch (error) {
    throw wrong(`${MOD_MANIFEST} is no JSON`, { found: (error as Error).message });
  }
  const result = modFile.safeParse(data, { reportInput: true });
  if (result.success) return result.data;
  const issue = result.error.issues[0]!;
  throw wrong(`${MOD_MANIFEST} is wrong at ${issue.path.join('.') || 'its top'}`, { found: `it ${sayIssue(issue)}` });
}

async function* chunksOf(stream: ReadableStream<Uint8Array>): AsyncGenerator<Uint8Array> {
  const reader = stream.getReader();
  for (;;) {
    const { done, value } = await reader.read();
    if (done) return;
    yield value;
  }
}
