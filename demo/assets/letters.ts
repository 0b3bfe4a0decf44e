/** The letters of Gondola Post, drawn on five by seven squares. Small letters are small capitals. */

/** Rows from the top, a bit for each square. */
const CAPITALS: Readonly<Record<string, string>> = {
  A: '0e 11 11 1f 11 11 11',
  B: '1e 11 11 1e 11 11 1e',
  C: '0e 11 10 10 10 11 0e',
  D: '1e 11 11 11 11 11 1e',
  E: '1f 10 10 1e 10 10 1f',
  F: '1f 10 10 1e 10 10 10',
  G: '0e 11 10 17 11 11 0e',
  H: '11 11 11 1f 11 11 11',
  I: '0e 04 04 04 04 04 0e',
  J: '07 02 02 02 02 12 0c',
  K: '11 12 14 18 14 12 11',
  L: '10 10 10 10 10 10 1f',
  M: '11 1b 15 15 11 11 11',
  N: '11 19 15 13 11 11 11',
  O: '0e 11 11 11 11 11 0e',
  P: '1e 11 11 1e 10 10 10',
  Q: '0e 11 11 11 15 12 0d',
  R: '1e 11 11 1e 14 12 11',
  S: '0f 10 10 0e 01 01 1e',
  T: '1f 04 04 04 04 04 04',
  U: '11 11 11 11 11 11 0e',
  V: '11 11 11 11 11 0a 04',
  W: '11 11 11 15 15 1b 11',
  X: '11 11 0a 04 0a 11 11',
  Y: '11 11 0a 04 04 04 04',
  Z: '1f 01 02 04 08 10 1f',
};

const SIGNS: Readonly<Record<string, string>> = {
  '0': '0e 11 13 15 19 11 0e',
  '1': '04 0c 04 04 04 04 0e',
  '2': '0e 11 01 06 08 10 1f',
  '3': '1f 02 04 02 01 11 0e',
  '4': '02 06 0a 12 1f 02 02',
  '5': '1f 10 1e 01 01 11 0e',
  '6': '06 08 10 1e 11 11 0e',
  '7': '1f 01 02 04 04 04 04',
  '8': '0e 11 11 0e 11 11 0e',
  '9': '0e 11 11 0f 01 02 0c',
  ' ': '00 00 00 00 00 00 00',
  '.': '00 00 00 00 00 0c 0c',
  ',': '00 00 00 00 0c 04 08',
  '!': '04 04 04 04 04 00 04',
  '?': '0e 11 01 06 04 00 04',
  ':': '00 0c 0c 00 0c 0c 00',
  ';': '00 0c 0c 00 0c 04 08',
  "'": '04 04 08 00 00 00 00',
  '’': '04 04 08 00 00 00 00',
  '"': '0a 0a 0a 00 00 00 00',
  '-': '00 00 00 0e 00 00 00',
  '–': '00 00 00 1f 00 00 00',
  '(': '02 04 08 08 08 04 02',
  ')': '08 04 02 02 02 04 08',
  '/': '01 01 02 04 08 10 10',
  '&': '0c 12 14 08 15 12 0d',
  '+': '00 04 04 1f 04 04 00',
  '%': '19 19 02 04 08 13 13',
  '…': '00 00 00 00 00 15 15',
};

/** Marks above a letter: two rows. */
const MARKS: Readonly<Record<string, string>> = {
  '\u0300': '08 04',
  '\u0301': '02 04',
  '\u0302': '04 0a',
  '\u0308': '0a 00',
};

/** Letters with marks that the languages of the game use. */
const MARKED = 'ÄÖÜÀÂÇÉÈÊËÎÏÔÙÛ';

export interface Letter {
  readonly character: string;
  /** Squares that are filled, from the left and from the baseline up; in squares. */
  readonly squares: readonly (readonly [x: number, y: number])[];
  /** Sides of a square, where small letters have smaller ones. */
  readonly scale: number;
  /** Squares that the pen moves on. */
  readonly advance: number;
}

const SMALL = 0.75;

export function letters(): Letter[] {
  const capitals = Object.entries(CAPITALS).map(([character, rows]) => letter(character, rows));
  const marked = [...MARKED].map(markedLetter);
  const sharp = letter('ß', '0e 11 12 14 12 11 16');
  const tall = [...capitals, ...marked];
  const small = tall.map((one) => ({ ...one, character: one.character.toLowerCase(), scale: SMALL }));
  const signs = Object.entries(SIGNS).map(([character, rows]) => letter(character, rows));
  return [...tall, sharp, ...small, ...signs].sort((a, b) => a.character.codePointAt(0)! - b.character.codePointAt(0)!);
}

function letter(character: string, rows: string): Letter {
  return { character, squares: squaresOf(rows, 6), scale: 1, advance: character === ' ' ? 4 : 6 };
}

function markedLetter(character: string): Letter {
  const [base, mark] = [...character.normalize('NFD')] as [string, string];
  const plain = letter(character, CAPITALS[base]!);
  // A cedilla hangs below; the others are above.
  const added: Letter['squares'] =
    mark === '\u0327'
      ? [
          [2, -1],
          [1, -2],
        ]
      : squaresOf(MARKS[mark]!, 9);
  return { ...plain, squares: [...plain.squares, ...added] };
}

/** @param top the height of the first row above the baseline */
function squaresOf(rows: string, top: number): [number, number][] {
  return rows.split(' ').flatMap((row, i) => {
    const bits = Number.parseInt(row, 16);
    return [0, 1, 2, 3, 4].flatMap((x): [number, number][] => ((bits >> (4 - x)) & 1 ? [[x, top - i]] : []));
  });
}
