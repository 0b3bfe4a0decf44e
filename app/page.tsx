import { GamesPage } from '../src/ui/open/GamesPage';

export default function Page() {
  return <GamesPage />;
}
