'use client';
import { BrokenPage } from '../../../src/ui/shell/Boundaries';

export default function Broken({ error, reset }: { error: Error; reset: () => void }) {
  return <BrokenPage error={error} retry={reset} />;
}
