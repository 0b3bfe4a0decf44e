/** Open formats that fonts are taken out in, by their endings. */
export const FONT_OUT = ['ttf', 'woff', 'woff2'] as const;
export type FontOut = (typeof FONT_OUT)[number];
