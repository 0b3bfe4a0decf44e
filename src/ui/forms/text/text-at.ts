import type { SubjectAddress } from '../form-view';

/** Packed messages are text once the server has unpacked them. */
export const textAt = (subject: SubjectAddress, name: string): string =>
  `${subject}/${/\.mo$/i.test(name) ? 'text' : 'bytes'}`;
