/** Builds, what the stand-in game says of them, and what is in the game folder. */
import { z } from 'zod';
import { type ProofAnswer } from './games';

export interface BuildFile {
  readonly name: string;
  readonly size: number;
  readonly sha256: string;
}

export interface InstallFile extends BuildFile {
  /** The original's hash, kept in storage; none when the file is new in the folder. */
  readonly original: string | null;
  readonly originalSize: number;
  /** Milliseconds since 1970. */
  readonly originalModified: number;
}

export interface JudgeFinding {
  readonly severity: 'stop' | 'note';
  readonly code: string;
  readonly file: string;
  readonly entry?: string;
  readonly offset: number;
  readonly rule: string;
  readonly found: string;
}

export interface JudgeReport {
  readonly started: boolean;
  readonly steps: readonly { readonly what: string; readonly count: number; readonly milliseconds: number }[];
  readonly findings: readonly JudgeFinding[];
  readonly files: readonly {
    readonly file: string;
    readonly folder: number;
    readonly entries: number;
    readonly bytes: number;
  }[];
  readonly scene: null | {
    readonly caption: string;
    readonly language: string;
    readonly livery: { readonly path: string; readonly from: string };
    readonly tannoy: { readonly path: string; readonly from: string };
    /** Hashes of the scene's picture and sound in storage. */
    readonly pictureBlob?: string;
    readonly soundBlob?: string;
  };
  /** Changed pictures and sounds as they are seen and heard in the game, with the build and, where known, before it. */
  readonly shown: readonly {
    readonly path: string;
    readonly from: string;
    readonly kind: 'picture' | 'sound';
    readonly blob: string;
    readonly before?: string;
  }[];
}

export interface BuildAnswer {
  readonly id: number;
  readonly number: number;
  readonly how: string;
  readonly files: readonly BuildFile[];
  readonly changes: readonly string[];
  readonly proof: ProofAnswer | null;
  readonly report: JudgeReport | null;
  readonly createdAt: string;
}

export interface InstallAnswer {
  readonly id: number;
  readonly build: number;
  readonly state: 'putting-in' | 'in' | 'taking-out' | 'out';
  readonly files: number;
  readonly kept: number;
  readonly putInAt: string;
  readonly takenOutAt: string | null;
}

export interface PutBackAnswer {
  readonly builds: readonly BuildAnswer[];
  readonly installs: readonly InstallAnswer[];
  readonly before: JudgeReport['scene'];
}

export const buildOrder = z.strictObject({ how: z.enum(['patch', 'keep']) });

export const sceneQuery = z.object({
  when: z.enum(['before', 'after']),
  /** A part of the title scene, or the place of something that is shown. */
  what: z.union([z.enum(['picture', 'sound']), z.coerce.number().int().min(0)]),
});
