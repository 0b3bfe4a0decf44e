/** A server thread for untrusted recipes: compiles them, tries one on a file, or looks for hints in one. */
import { parentPort, workerData } from 'node:worker_threads';
import { fileScratch, openFile } from '../core/bytes/node';
import { faultOf, sayFault, type Fault } from '../core/faults';
import { findHints, randomness } from '../core/hints';
import {
  compileRecipe,
  EDIT_WORDS,
  editsHold,
  explainedBytes,
  explainRegion,
  openArchive,
  prove,
  type Archive,
  type EditProof,
  type ExplainedField,
} from '../core/recipe';
import { companionsOf } from '../core/recipe/node';

export interface TryOrder {
  readonly task: 'try';
  readonly text: string;
  readonly file: string;
  /** Key slots with all keys that may fit. */
  readonly keys: Readonly<Record<string, readonly Uint8Array[]>>;
  /** Leave out the two numbers that rebuild the file. */
  readonly quick: boolean;
}

export interface CheckOrder {
  readonly task: 'check';
  readonly texts: readonly string[];
}

/** What a text is when it compiles, and else what is wrong with it. */
export type CheckedText =
  | { readonly fault: Fault }
  | {
      readonly fault: undefined;
      readonly id: string;
      readonly revision: number;
      /** Kinds of key by slot. */
      readonly needs: Readonly<Record<string, string>>;
    };

export interface HintOrder {
  readonly task: 'hints';
  readonly file: string;
  readonly cells: number;
}

/** Fields that are shown at the most. */
const MOST_FIELDS = 600;
/** The thread shares the memory of the process that serves the pages: a region may unpack to half of what is usual. */
const LIMITS = { maxRegionBytes: 128 << 20 };
/** Larger files are not rebuilt while someone types. */
const MOST_PROVEN_BYTES = 256 << 20;
/** Plain bytes that are changed for the fourth number. */
const CHANGED_BYTES = 16 << 20;
const SAMPLE_PATHS = 12;

const said = (fault: Fault | undefined) =>
  fault === undefined
    ? null
    : { code: fault.code, sentence: sayFault(fault), line: fault.line ?? null, at: fault.offset ?? null };

const placed = (fault: Fault) => said(fault)!;

function editsAnswer(proof: EditProof) {
  return {
    done: proof.done,
    total: proof.total,
    holds: editsHold(proof),
    refused: proof.edits.flatMap(({ edit, layout, forbidden, fault }) =>
      fault === undefined ? [] : [{ what: EDIT_WORDS[edit], layout, forbidden, fault: placed(fault) }],
    ),
  };
}

async function run(order: TryOrder | HintOrder | CheckOrder): Promise<object> {
  switch (order.task) {
    case 'try':
      return tryRecipe(order);
    case 'hints':
      return lookForHints(order);
    case 'check':
      return order.texts.map(checkText);
  }
}

function checkText(text: string): CheckedText {
  try {
    const { id, revision, needs } = compileRecipe(text);
    return { fault: undefined, id, revision, needs: Object.fromEntries(needs) };
  } catch (error) {
    return { fault: faultOf(error) };
  }
}

async function lookForHints({ file, cells }: HintOrder): Promise<object> {
  const source = await openFile(file);
  try {
    return { hints: await findHints(source), randomness: await randomness(source, cells), size: source.size };
  } finally {
    await source.close();
  }
}

async function tryRecipe({ text, file, keys, quick }: TryOrder): Promise<object> {
  const sources = [await openFile(file)];
  const scratch = fileScratch();
  try {
    const recipe = compileRecipe(text);
    for (const path of await companionsOf(recipe, file)) sources.push(await openFile(path));
    const archive = await openWithKeys(keys, (ring) =>
      openArchive(recipe, sources, { keys: ring, scratch, limits: LIMITS }),
    );
    const size = sources.reduce((sum, source) => sum + source.size, 0);
    const proof =
      quick || size > MOST_PROVEN_BYTES
        ? undefined
        : await prove(archive, { scratch, maxChangedBytes: CHANGED_BYTES, brief: true });
    return {
      fault: null,
      entries: archive.entries.count,
      paths: Array.from({ length: Math.min(SAMPLE_PATHS, archive.entries.count) }, (_, i) => archive.entries.path(i)),
      complaints: archive.complaints.slice(0, 20).map(said),
      proof:
        proof === undefined
          ? null
          : {
              bytes: { ...proof.bytes, first: said(proof.bytes.first) },
              formulas: { ...proof.formulas, first: said(proof.formulas.first) },
              identical: { ...proof.identical, first: said(proof.identical.first) },
              changed: { ...proof.changed, first: said(proof.changed.first) },
              edits: editsAnswer(proof.edits),
            },
      regions: [...archive.regions.values()].map(({ region, at, length, volume, unlocked }) => ({
        name: region.name,
        line: region.line,
        at,
        length,
        volume,
        unlocked,
      })),
      fields: await fieldsOf(archive),
      unexplained: (await explainedBytes(archive))[0]!.missing(archive.source.size).slice(0, 200),
    };
  } catch (error) {
    return { fault: said(faultOf(error, undefined)) };
  } finally {
    await scratch.release();
    for (const source of sources) await source.close();
  }
}

/** The first combination of keys that opens it. */
async function openWithKeys(
  keys: Readonly<Record<string, readonly Uint8Array[]>>,
  open: (ring: ReadonlyMap<string, Uint8Array>) => Promise<Archive>,
): Promise<Archive> {
  let rings: Map<string, Uint8Array>[] = [new Map()];
  for (const [slot, candidates] of Object.entries(keys))
    if (candidates.length > 0)
      rings = rings.flatMap((ring) => candidates.map((key) => new Map([...ring, [slot, key]])));
  let refusal: unknown;
  for (const ring of rings) {
    try {
      return await open(ring);
    } catch (error) {
      refusal ??= error;
      if (faultOf(error).code !== 'key-wrong') throw error;
    }
  }
  throw refusal;
}

async function fieldsOf(archive: Archive): Promise<ExplainedField[]> {
  const fields: ExplainedField[] = [];
  for (const found of archive.regions.values()) {
    if (found.column === undefined || fields.length >= MOST_FIELDS) continue;
    // A table of a million rows is not sent whole: its first rows show the pattern.
    fields.push(...(await explainRegion(archive, found, () => true, Math.min(200, MOST_FIELDS - fields.length))));
  }
  return fields;
}

void run(workerData as TryOrder | HintOrder | CheckOrder).then(
  (result) => parentPort!.postMessage({ result }),
  (error: unknown) => parentPort!.postMessage({ result: { fault: said(faultOf(error)) } }),
);
