import { FormatError } from '../../faults';
import type { Expression } from '../language/expression';
import type { FieldKind, Formula, Shape } from '../model';
import type { Names } from '../formula/names';
import type { Scope } from '../formula/value';

/** What a kind is compiled against. */
export interface KindSetting {
  /** Endianness: fixed, or stored in the file. */
  readonly numbers: 'little' | 'big' | 'stored';
  readonly names: Names;
  readonly shapes: ReadonlyMap<string, Shape>;
  readonly line: number;
  formula(expression: Expression, text: string): Formula;
  kind(text: string): FieldKind;
}

/** Asks the file where only it knows the endianness. */
export function isLittle(numbers: KindSetting['numbers'], scope: Scope): boolean {
  return numbers === 'stored' ? scope.file.endianness(scope) === 'little' : numbers === 'little';
}

export function invalidKind(what: string, expected: string, setting: KindSetting): FormatError {
  return new FormatError({ code: 'recipe-invalid', line: setting.line, what, expected });
}
