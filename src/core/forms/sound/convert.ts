import type { FormConverter } from '../converter';
import { soundFormatOf } from './recipe-sound';
import { soundAsWav } from './sound';

/** Sounds without a header of their own, as the recipe of their archive says what they are. */
export const soundConverter: FormConverter<'wav'> = {
  formats: ['wav'],
  async convert({ archive, n, path, bytes }) {
    const format = soundFormatOf(archive, n);
    return format && { bytes: soundAsWav(await bytes(), format, path), notes: [] };
  },
};
