/** The forms that services ask for by what bytes are. A new one is added to this list. */
import { fontForm } from './font';
import type { ServerForm } from './form';

const FORMS: readonly ServerForm[] = [fontForm];

/** The form of bytes; undefined when they are of none in the list. */
export async function formOfBytes(bytes: Uint8Array, path: string): Promise<ServerForm | undefined> {
  const head = bytes.subarray(0, 512);
  for (const form of FORMS) if (await form.is(head, path)) return form;
  return undefined;
}
