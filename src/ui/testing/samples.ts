/** Answers of the server for tests of components: plain ones, of which a test changes what it is about. */
import type { ArchiveAnswer, ChangeAnswer, GameAnswer, IncomingFile, KeyAnswer } from '../../server/shapes';

export const archive = (more: Partial<ArchiveAnswer> = {}): ArchiveAnswer => ({
  ...{ id: 7, path: 'core.hold', title: 'Hold archive', state: 'open', slots: {}, fault: null, size: 4_096 },
  ...{ volumes: [{ name: 'core.hold', size: 4_096 }], entryCount: 12, proof: null, bands: [], parent: null, inside: 0 },
  ...{ hashed: false, named: 12, covers: 0, removes: 0, news: null, found: null, fits: [], recipe: 'hold-archive' },
  ...more,
});

export const game = (more: Partial<GameAnswer> = {}): GameAnswer => ({
  ...{ id: 1, name: 'Gondola Post', folder: '/games/gondola-post', scannedAt: null, build: null, buildFrom: null },
  ...{
    lastScan: null,
    loadOrder: { by: 'name' },
    ordered: false,
    archives: [archive()],
    loose: { files: 0, bytes: 0 },
  },
  ...{ keys: [], nameLists: [], entryCount: 12, trayCount: 0, changeCount: 0, waitingFiles: 0, behind: 0 },
  ...{ lastBuild: null, installed: false },
  ...more,
});

export const key = (more: Partial<KeyAnswer> = {}): KeyAnswer => ({
  ...{ id: 3, kind: 'aes-256', mask: '95da…9b0d', name: 'content', build: '1.4.1', opens: ['core.hold'] },
  ...more,
});

export const change = (more: Partial<ChangeAnswer> = {}): ChangeAnswer => ({
  ...{
    id: 5,
    action: 'replace',
    status: 'fits',
    hasBase: true,
    path: 'cabins/view.png',
    companions: [],
    kind: 'picture',
  },
  ...{
    fileName: 'mine.png',
    size: 100,
    before: 90,
    archive: 7,
    undone: false,
    drop: null,
    dropCount: 0,
    matchedBy: null,
  },
  ...{ fitNotes: [], note: '', label: null, fitOptions: null, createdAt: '2026-12-01T08:00:00.000Z' },
  ...more,
});

export const incoming = (more: Partial<IncomingFile> = {}): IncomingFile => ({
  ...{ id: 9, drop: 2, name: 'edited/view.png', kind: 'picture', size: 100, state: 'ambiguous', path: null },
  ...{ matchedBy: null, choices: [], fault: null },
  ...more,
});
