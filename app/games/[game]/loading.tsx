import { PageOnItsWay } from '../../../src/ui/shell/Boundaries';

export default function Loading() {
  return <PageOnItsWay />;
}
