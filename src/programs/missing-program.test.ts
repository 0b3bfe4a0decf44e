import { spawn } from 'node:child_process';
import { startFault } from './missing-program';

test('a program that is not there is told, with what it is for', async () => {
  const error = await new Promise((resolve) => spawn('/nowhere/ffmpeg').on('error', resolve));
  expect(startFault('ffmpeg', error)).toMatchObject({
    fault: { code: 'missing-program', what: 'ffmpeg is not installed', hint: expect.stringContaining('films') },
  });
});

test('any other reason stays what it is', () => {
  const error = Object.assign(new Error('no'), { code: 'EACCES' });
  expect(startFault('xdelta3', error)).toBe(error);
});
