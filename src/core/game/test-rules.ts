/** Rules a build is checked by before a game sees it: what its engine is known to refuse. */
import { z } from 'zod';

/** Paths with `*` and `?`; everything without it. */
const paths = z.string().min(1).max(4096).default('*');
const most = z.number().int().positive().max(Number.MAX_SAFE_INTEGER);

export const testRule = z.discriminatedUnion('rule', [
  /** Packings a picture may have, such as `bc1` and `bc3`. */
  z.strictObject({ rule: z.literal('packing'), paths, one: z.array(z.string().min(1).max(40)).min(1).max(40) }),
  /** Width and height are powers of two. */
  z.strictObject({ rule: z.literal('powers-of-two'), paths }),
  /** Pixels along the longer side. */
  z.strictObject({ rule: z.literal('side'), paths, most }),
  /** `all`: mips down to one pixel; `none`: the picture alone. */
  z.strictObject({ rule: z.literal('mips'), paths, are: z.enum(['all', 'none']) }),
  /** Samples a second. */
  z.strictObject({ rule: z.literal('rate'), paths, one: z.array(most).min(1).max(20) }),
  z.strictObject({ rule: z.literal('channels'), paths, most }),
  /** Bytes of an entry. */
  z.strictObject({ rule: z.literal('bytes'), paths, most }),
  /** Characters of a path. */
  z.strictObject({ rule: z.literal('path-length'), paths, most }),
  /** Characters of a name without its folder, and none beyond ASCII. */
  z.strictObject({ rule: z.literal('name'), paths, most }),
]);
export type TestRule = z.output<typeof testRule>;
export type TestRuleName = TestRule['rule'];

/** What rules ask of an entry that is new or changed. */
export interface RuledEntry {
  readonly path: string;
  readonly size: number;
  readonly picture?: {
    readonly width: number;
    readonly height: number;
    readonly mips: number;
    /** The short name of its packing. */
    readonly packing: string;
  };
  readonly sound?: { readonly rate: number; readonly channels: number };
}

/** An entry that breaks a rule. */
export interface BrokenRule {
  readonly path: string;
  readonly rule: TestRuleName;
  /** As a sentence. */
  readonly title: string;
  readonly found: string;
}

/** What of some entries breaks which rule, in the order of the entries. */
export function brokenRules(rules: readonly TestRule[], entries: Iterable<RuledEntry>): BrokenRule[] {
  const tests = rules.map((rule) => ({ rule, fits: pathTest(rule.paths) }));
  const broken: BrokenRule[] = [];
  for (const entry of entries)
    for (const { rule, fits } of tests) {
      const found = fits(entry.path) ? against(rule, entry) : undefined;
      if (found !== undefined) broken.push({ path: entry.path, rule: rule.rule, title: sayRule(rule), found });
    }
  return broken;
}

/** The rule as a sentence, without the paths it is for. */
export function sayRule(rule: TestRule): string {
  switch (rule.rule) {
    case 'packing':
      return `Pictures are packed as ${rule.one.map((one) => one.toUpperCase()).join(' or ')}.`;
    case 'powers-of-two':
      return 'Pictures are as wide and as high as powers of two.';
    case 'side':
      return `Pictures have no more than ${rule.most.toLocaleString('en')} pixels along a side.`;
    case 'mips':
      return rule.are === 'all' ? 'Pictures have all mips, down to one pixel.' : 'Pictures have no further mips.';
    case 'rate':
      return `Sounds have ${rule.one.map((rate) => rate.toLocaleString('en')).join(' or ')} samples a second.`;
    case 'channels':
      return `Sounds have no more than ${rule.most} ${rule.most === 1 ? 'channel' : 'channels'}.`;
    case 'bytes':
      return `Entries take no more than ${rule.most.toLocaleString('en')} bytes.`;
    case 'path-length':
      return `Paths are no longer than ${rule.most} characters.`;
    case 'name':
      return `Names are no longer than ${rule.most} characters, all of them ASCII.`;
  }
}

/** What is found against the rule; undefined when the entry keeps it, or is nothing the rule is for. */
function against(rule: TestRule, { path, size, picture, sound }: RuledEntry): string | undefined {
  const when = (broken: boolean, found: string) => (broken ? found : undefined);
  switch (rule.rule) {
    case 'packing':
      return picture && when(!rule.one.some((one) => sameWord(one, picture.packing)), picture.packing.toUpperCase());
    case 'powers-of-two':
      return (
        picture && when(!isPower(picture.width) || !isPower(picture.height), `${picture.width} × ${picture.height}`)
      );
    case 'side':
      return (
        picture && when(Math.max(picture.width, picture.height) > rule.most, `${picture.width} × ${picture.height}`)
      );
    case 'mips':
      return (
        picture &&
        when(picture.mips !== (rule.are === 'none' ? 1 : allMips(picture)), `${picture.mips} of ${allMips(picture)}`)
      );
    case 'rate':
      return sound && when(!rule.one.includes(sound.rate), `${sound.rate.toLocaleString('en')} a second`);
    case 'channels':
      return sound && when(sound.channels > rule.most, String(sound.channels));
    case 'bytes':
      return when(size > rule.most, `${size.toLocaleString('en')} bytes`);
    case 'path-length':
      return when([...path].length > rule.most, `${[...path].length} characters`);
    case 'name': {
      const name = path.slice(path.lastIndexOf('/') + 1);

      return when(name.length > rule.most || !/^[\x00-\x7f]*$/.test(name), name);
    }
  }
}

const sameWord = (a: string, b: string) => a.toLowerCase() === b.toLowerCase();
const isPower = (side: number) => (side & (side - 1)) === 0;
const allMips = ({ width, height }: { width: number; height: number }) =>
  Math.floor(Math.log2(Math.max(width, height))) + 1;

/** `*` goes over folders too: a rule is rarely meant for one alone. */
function pathTest(pattern: string): (path: string) => boolean {
  const parts = pattern.split(/([*?])/).map((part) => (part === '*' ? '.*' : part === '?' ? '.' : escaped(part)));
  const whole = new RegExp(`^${parts.join('')}$`, 'isu');
  return (path) => whole.test(path);
}

const escaped = (text: string) => text.replace(/[.*+?^${}()|[\]\\/]/g, '\\$&');
