import { SignInPage } from '../../src/ui/access/SignInPage';

export default function Page() {
  return <SignInPage />;
}
