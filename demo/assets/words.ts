/** The words of Gondola Post: captions by language, letters, timetables and parcels. */
import type { Random } from './random';

export const LANGUAGES = ['en', 'de', 'fr'] as const;
export type Language = (typeof LANGUAGES)[number];

const CAPTIONS: Readonly<Record<string, Readonly<Record<Language, string>>>> = {
  'tannoy.doors': { en: 'Mind the doors, please.', de: 'Bitte auf die Türen achten.', fr: 'Attention aux portes.' },
  'tannoy.wind': {
    en: 'Slow running because of wind.',
    de: 'Langsame Fahrt wegen Wind.',
    fr: 'Marche lente à cause du vent.',
  },
  'tannoy.last': {
    en: 'Last cabin to the valley.',
    de: 'Letzte Kabine ins Tal.',
    fr: 'Dernière cabine vers la vallée.',
  },
  'tannoy.parcel': {
    en: 'A parcel is waiting at the counter.',
    de: 'Ein Paket liegt am Schalter.',
    fr: 'Un colis attend au guichet.',
  },
  'menu.start': { en: 'Start the first run', de: 'Erste Fahrt beginnen', fr: 'Commencer la première course' },
  'menu.depot': { en: 'Look after the cabins', de: 'Kabinen pflegen', fr: 'Entretenir les cabines' },
  'menu.leave': { en: 'Leave for today', de: 'Feierabend', fr: 'Finir la journée' },
  'depot.livery': { en: 'Choose a livery', de: 'Lackierung wählen', fr: 'Choisir une livrée' },
};

const PLACES = [
  'Upper Fernegg',
  'Lower Fernegg',
  'Grauspitz',
  'Millhollow',
  'Sorrel Gap',
  'Tannwand',
  'Quarry Halt',
  'Belvarde',
];
const PEOPLE = [
  'Ida Moss',
  'Jon Karr',
  'Selma Voigt',
  'Bruno Falk',
  'Mira Dell',
  'Otto Rain',
  'Lene Host',
  'Arne Pell',
];
const GOODS = [
  'a clock',
  'two jars of honey',
  'a box of screws',
  'woollen socks',
  'a map',
  'candles',
  'a small bell',
  'seeds',
];

/** One caption a line, `key = text`, UTF-8. */
export function captions(language: Language): string {
  return `${Object.entries(CAPTIONS)
    .map(([key, texts]) => `${key} = ${texts[language]}`)
    .join('\n')}\n`;
}

/** One caption, as it is in {@link captions}. */
export function caption(key: string, language: Language): string {
  return CAPTIONS[key]![language];
}

/** Names of things that are put on signs and menus, by key: the captions, and the places and goods of the valley. */
export function wordTable(language: Language): Record<string, string> {
  const table = Object.fromEntries(Object.entries(CAPTIONS).map(([key, texts]) => [key, texts[language]]));
  for (const [i, place] of PLACES.entries()) table[`place.${String(i + 1).padStart(2, '0')}`] = place;
  for (const [i, line] of MENU[language].entries()) table[`menu.line.${String(i + 1).padStart(2, '0')}`] = line;
  return table;
}

const MENU: Readonly<Record<Language, readonly string[]>> = {
  en: ['Sound', 'Pictures', 'Languages', 'Keys', 'Save', 'Load', 'Back', 'The valley', 'The rope', 'The weather'],
  de: ['Ton', 'Bilder', 'Sprachen', 'Tasten', 'Sichern', 'Laden', 'Zurück', 'Das Tal', 'Das Seil', 'Das Wetter'],
  fr: ['Son', 'Images', 'Langues', 'Touches', 'Garder', 'Reprendre', 'Retour', 'La vallée', 'Le câble', 'Le temps'],
};

/** Languages as they call themselves, with what is shown where a text is missing. */
export const LANGUAGE_FACTS = [
  { code: 'en', title: 'English', fallback: '' },
  { code: 'de', title: 'Deutsch', fallback: 'en' },
  { code: 'fr', title: 'Français', fallback: 'en' },
] as const;

export function letter(random: Random): string {
  const lines = Array.from({ length: random.whole(4, 12) }, () =>
    random.pick([
      `The cabin to ${random.pick(PLACES)} was ${random.whole(2, 20)} minutes late.`,
      `Please tell ${random.pick(PEOPLE)} that the rope was greased.`,
      `I am sending you ${random.pick(GOODS)} with the next run.`,
      'Snow up to the windows, but the post goes out.',
    ]),
  );
  return `Dear ${random.pick(PEOPLE)},\n\n${lines.join('\n')}\n\nYours, ${random.pick(PEOPLE)}\n`;
}

export function timetable(name: string, random: Random): string {
  const departures = Array.from({ length: random.whole(8, 30) }, (_, i) => ({
    at: `${String(6 + Math.floor(i / 2)).padStart(2, '0')}:${i % 2 === 0 ? '00' : '30'}`,
    to: random.pick(PLACES),
    cabin: random.whole(1, 24),
  }));
  return `${JSON.stringify({ station: name, switches: Array.from({ length: 4 }, () => random.whole(100, 160)), departures }, null, 2)}\n`;
}

export function parcel(number: number, random: Random): string {
  return `${JSON.stringify(
    {
      id: number,
      from: random.pick(PLACES),
      to: random.pick(PLACES),
      sender: random.pick(PEOPLE),
      holds: random.pick(GOODS),
      grams: random.whole(40, 9000),
      fragile: random.next() < 0.3,
    },
    null,
    2,
  )}\n`;
}

/** What the title scene shows: the stand-in game draws it from the entries named here. */
export function titleScene(): string {
  return `${JSON.stringify({ livery: 'cabins/livery/cabin_07_red.png', caption: 'tannoy.doors', tannoy: 'tannoy/doors_closing.wav', language: 'en' }, null, 2)}\n`;
}
