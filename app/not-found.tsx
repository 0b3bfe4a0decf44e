import { MissingPage } from '../src/ui/shell/Boundaries';

export default function NotFound() {
  return <MissingPage />;
}
