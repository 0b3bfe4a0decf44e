/** Freely licensed game data that Debian has, at most 700 MB of it: named here and in the table alone. */
export const PACKAGES = [
  'freedoom',
  'frozen-bubble-data',
  'hedgewars-data',
  'openarena-data',
  'openttd-opengfx',
  'openttd-opensfx',
  'supertux-data',
  'warzone2100-data',
] as const;
