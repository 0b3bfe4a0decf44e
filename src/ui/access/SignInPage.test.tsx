import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { Refusal, serve, show } from '../testing/show';
import { SignInPage } from './SignInPage';

test('a wrong passphrase is said, and the field is empty again', async () => {
  const asked = serve({ 'POST session': () => new Refusal(403, 'not-allowed', 'This is not the passphrase.') });
  const user = userEvent.setup();
  show(<SignInPage />);
  const field = screen.getByLabelText('Passphrase');
  expect(screen.getByRole('button', { name: 'Sign in' })).toHaveProperty('disabled', true);
  await user.type(field, 'something else{Enter}');
  await waitFor(() => expect(screen.getByText('This is not the passphrase.')).toBeTruthy());
  expect(field).toHaveProperty('value', '');
  expect(asked).toMatchObject([{ method: 'POST', path: 'session', body: { passphrase: 'something else' } }]);
});
