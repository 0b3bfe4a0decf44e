import { StoragePage } from '../../src/ui/storage/StoragePage';

export default function Page() {
  return <StoragePage />;
}
