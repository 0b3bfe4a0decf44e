/** Packing a new or changed entry as its original was packed; raw where that is smaller and the format can say so. */
import { FaultError, FormatError } from '../../../faults';
import { sameValue, type Value } from '../../formula/value';
import type { Method } from '../../model';
import type { NewBytes } from '../model/new-bytes';
import { contentHashes } from './content-hashes';
import { fileScope, Packer, type PackOrder, type PackSetting } from './packer';

/** @throws FormatError `layout-impossible` when no method of packing gives a row that states it */
export async function packEntry(setting: PackSetting, order: PackOrder): Promise<NewBytes> {
  const { recipe, archive } = setting;
  const rule = recipe.entries;
  const { base } = order;
  const count = archive?.entries.count ?? 0;
  const neighbour = base ?? (count > 0 ? count - 1 : undefined);
  const data = await contentHashes(setting, 'data', order.bytes, () => fileScope(setting));
  const made = new Map<string, Value>();
  const packerFor = (method: Method) =>
    new Packer(setting, order, method, rule.stepsOf(method) ?? [], neighbour, data, made);
  const usual = neighbour === undefined ? rule.methods.at(-1) : archive!.entries.method(neighbour);
  // What a new row would say by itself, such as a method field with `new: 8`.
  const stated = base === undefined ? packerFor(usual).statedMethod() : undefined;
  const candidates = [
    usual,
    ...rule.rawOf(usual),
    stated,
    ...(stated === undefined ? [] : rule.rawOf(stated)),
    ...rule.methods,
  ];
  const tried: { result: NewBytes; isStated: boolean }[] = [];
  let failure: unknown;
  for (const method of candidates) {
    const steps = method === undefined && rule.methods.length > 0 ? undefined : rule.stepsOf(method ?? 0);
    if (steps === undefined || tried.some(({ result }) => sameValue(result.method, method))) continue;
    const packer = packerFor(method);
    let result: NewBytes;
    try {
      result = await packer.pack();
    } catch (error) {
      // Another way may do: one that needs no key, or that can be written and not only read.
      if (!(error instanceof FaultError) || error.fault.code === 'stopped' || isFull(error)) throw error;
      failure ??= error;
      continue;
    }
    const isStated = packer.statesMethod();
    tried.push({ result, isStated });
    const compresses = steps.some(({ codec }) => codec.family === 'compression');
    const helps = !compresses || result.stored.size < order.bytes.size;
    if ((helps || rule.rawOf(method).length === 0) && isStated) return result;
  }
  const fallback = tried.find((one) => one.isStated);
  if (fallback !== undefined) return fallback.result;
  if (failure !== undefined) throw failure;
  throw new FormatError({
    code: 'layout-impossible',
    recipe: recipe.id,
    line: rule.line,
    entry: order.path,
    what: 'no way of packing gives a row that says how it was packed',
    hint: 'Give the field for the method `is: entry.method`, or one that follows from entry.size and entry.stored.',
  });
}

/** Faults that no other way of packing helps against. */
function isFull({ fault: { code } }: FaultError): boolean {
  return code === 'disk-full' || code === 'not-allowed' || code === 'read-only' || code === 'file-changed';
}
