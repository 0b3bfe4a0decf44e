import { FaultError } from '../../core/faults';
import { KIND_NAMES, kindOf } from '../../core/game';
import type { DroppedFile, Subject } from './form';

/** A file of another kind than the entry it is for. */
export function wrongKind({ path, kind }: Subject, { fileName, bytes }: DroppedFile): FaultError {
  const found = kindOf(fileName, bytes);
  const named = kindOf(fileName) !== found ? `, although its name says ${kindOf(fileName)}` : '';
  return new FaultError({
    code: 'wrong-kind',
    file: fileName,
    entry: path,
    what: 'it cannot take the place of the entry',
    expected: KIND_NAMES[kind].some,
    found: `${KIND_NAMES[found].some}${named}`,
  });
}
