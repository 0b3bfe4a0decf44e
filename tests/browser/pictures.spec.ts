/** Pictures: seen as the game packs them, taken out, changed in both halves, compared; and unpacked as a graphics card does. */
import { existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { chromium, expect, test } from '@playwright/test';
import sharp from 'sharp';
import { findPixelFormat, levelBytes } from '../../src/core/forms/picture/pixel-formats';
import { unpackPixels } from '../../src/core/forms/picture/unpack';
import { alerts, fillWhereTo, GAMES, go, unlockedGame } from './support';

test('a texture is seen, taken out as PNG, replaced and undone', async ({ page }) => {
  test.setTimeout(240_000);
  const { id } = await unlockedGame(page, 'textures');
  const inspector = page.getByRole('complementary', { name: 'The selected entry' });
  const files = join(GAMES, 'textures-edited');
  mkdirSync(files, { recursive: true });

  await test.step('its halves, its mips and the value under the pointer', async () => {
    await page.goto(`/games/${id}/find?search=cabin_normal.tex`);
    await page.getByRole('option', { name: 'models/cabin/cabin_normal.tex', exact: true }).click();
    await expect(inspector).toContainText('256 × 256, BC3, with alpha, 9 mips');
    await expect(inspector).toContainText('plain numbers, not colours');
    await inspector.getByRole('combobox', { name: 'Which mip' }).selectOption('5');
    const picture = inspector.getByRole('img', { name: 'models/cabin/cabin_normal.tex' });
    await expect(picture).toHaveJSProperty('width', 8);
    await inspector.getByRole('combobox', { name: 'Which mip' }).selectOption('0');
    await expect(picture).toHaveJSProperty('width', 256);
    await picture.hover({ position: { x: 60, y: 60 } });
    await expect(inspector).toContainText(/\d+, \d+: 1[23]\d 1[23]\d 25\d, alpha \d+/);
    await inspector.getByRole('button', { name: 'cabin_normal.texfar' }).click();
    await expect(inspector.getByRole('heading', { name: 'cabin_normal.texfar' })).toBeVisible();
  });

  await test.step('out as PNG, alone and as a run', async () => {
    await page.goto(`/games/${id}/find?search=cabin_colour.tex`);
    await page.getByRole('option', { name: 'models/cabin/cabin_colour.tex', exact: true }).click();
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      inspector.getByRole('link', { name: 'As PNG' }).click(),
    ]);
    const facts = await sharp(await download.path()).metadata();
    expect([facts.format, facts.width, facts.height]).toEqual(['png', 256, 256]);
    await inspector.getByRole('button', { name: 'Add to tray' }).click();
    await go(page, 'Take out');
    const out = join(GAMES, 'textures-out');
    await fillWhereTo(page, out);
    await page.getByRole('button', { name: 'Pictures as TGA' }).click();
    await page.getByRole('button', { name: 'channels together' }).click();
    await page.getByRole('button', { name: 'Take out', exact: true }).click();
    await expect(page.getByTestId('run take-out')).toContainText('1 file, ');
    expect(existsSync(join(out, 'models/cabin/cabin_colour.tga'))).toBe(true);
  });

  await test.step('a PNG of another size goes in; both halves change, and are undone together', async () => {
    const given = join(files, 'cabin_colour.png');
    const create = { width: 400, height: 400, channels: 4, background: '#2a9d5c' } as const;
    writeFileSync(given, await sharp({ create }).png().toBuffer());
    await go(page, 'Change');
    await page.getByTestId('drop-files').setInputFiles(given);
    await expect(page.getByText('yours was 400 × 400, resized to 256 × 256')).toBeVisible();
    await expect(page.getByText(/packed as BC1, within \d/)).toBeVisible();
    await expect(page.getByText('2 entries change together')).toBeVisible();
    await expect(page.getByText(/dB apart; at most \d+ of 255/)).toBeVisible();
    await page.getByRole('button', { name: 'Difference' }).click();
    await expect(page.getByRole('img', { name: /the difference/ })).toHaveJSProperty('width', 256);
    const text = join(files, 'cabin_normal.png');
    writeFileSync(text, 'a text that calls itself a picture');
    await page.getByTestId('drop-files').setInputFiles(text);
    await expect(alerts(page).first()).toContainText(/no picture/);
    const list = page.getByRole('list', { name: 'What is changed' });
    await list.getByRole('button', { name: /cabin_colour.tex/ }).click();
    await page.getByRole('button', { name: 'Undo', exact: true }).click();
    await expect(page.getByRole('button', { name: 'Bring it back' }).first()).toBeVisible();
  });
});

test('a small picture of a sheet goes back into its place, and is seen in the game', async ({ page }) => {
  test.setTimeout(180_000);
  const { id } = await unlockedGame(page, 'sheet');
  const files = join(GAMES, 'sheet-edited');
  mkdirSync(files, { recursive: true });
  await page.goto(`/games/${id}/find?search=signs.sheet`);
  await page.getByRole('option', { name: 'ui/signs.sheet/snow.dds', exact: true }).click();
  const inspector = page.getByRole('complementary', { name: 'The selected entry' });
  await expect(inspector).toContainText('64 × 64, BC3, with alpha');
  await expect(inspector).toContainText('core.hold/ui/signs.sheet');
  const given = join(files, 'snow.png');
  const create = { width: 64, height: 64, channels: 4, background: '#ff00ff' } as const;
  writeFileSync(given, await sharp({ create }).png().toBuffer());
  await page.getByTestId('replace-file').setInputFiles(given);
  await expect(page.getByText('ui/signs.sheet/snow.dds is changed.')).toBeVisible({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Look at it' }).click();
  await expect(page.getByText(/dB apart; at most \d+ of 255/)).toBeVisible();
  await go(page, 'Put back');
  await page.getByRole('button', { name: 'Build and test' }).click();
  const seen = page.getByRole('img', { name: 'ui/signs.sheet in the game' });
  await expect(seen).toBeVisible({ timeout: 60_000 });
  const shown = await page.request.get((await seen.getAttribute('src'))!);
  const { data } = await sharp(await shown.body())
    .raw()
    .toBuffer({ resolveWithObject: true });
  // The middle of the sign, and that of its neighbour.
  const at = (x: number, y: number) => [...data.subarray((y * 256 + x) * 4, (y * 256 + x) * 4 + 3)];
  expect(at(96, 160)).toEqual([255, 0, 255]);
  expect(at(32, 160)).not.toEqual([255, 0, 255]);
});

/** Numbers of compressed formats in WebGL: S3TC, RGTC and BPTC. */
const CARD_FORMATS = {
  ...{ bc1: 0x83f1, bc2: 0x83f2, bc3: 0x83f3, bc4: 0x8dbb, bc5: 0x8dbd },
  ...{ bc6h: 0x8e8f, bc6hs: 0x8e8e, bc7: 0x8e8c },
} as const;

test('every block a graphics card unpacks is unpacked alike', async () => {
  // Software that draws as a card does, and shares nothing with this program.
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--use-angle=swiftshader', '--enable-unsafe-swiftshader', '--disable-background-networking'],
  });
  try {
    const page = await browser.newPage();
    for (const [name, number] of Object.entries(CARD_FORMATS)) {
      const format = findPixelFormat(name)!;
      const side = 128;
      const level = Uint8Array.from(
        { length: levelBytes(format, side, side) },
        (_, i) => (Math.imul(i + 1, 2_654_435_761) >>> 15) ^ (i >> 4),
      );
      // Of BC7 the first bits are the mode: each of the eight comes up as often as the next.
      if (name === 'bc7')
        for (let i = 0; i < level.length; i += 16)
          level[i] = (1 << ((i >> 4) % 8)) | (level[i]! & -(2 << ((i >> 4) % 8)));
      // Of BC6H the first bits are the mode, and any is as good as another.
      if (name.startsWith('bc6h'))
        for (let i = 0; i < level.length; i += 16)
          level[i] = BC6H_MODES[(i >> 4) % BC6H_MODES.length]! | (level[i]! & 0xe0);
      const light = name.startsWith('bc6h');
      const card = await page.evaluate(drawnByCard, { bytes: [...level], number, side, light });
      const own = unpackPixels(format, level, side, side);
      const apart = own.reduce((most, value, i) => Math.max(most, Math.abs(value - card[i]!)), 0);
      expect({ name, near: apart <= (name === 'bc7' ? 0 : 2), apart }).toMatchObject({ near: true });
    }
  } finally {
    await browser.close();
  }
});

/** The first bits of the fourteen modes; those of two bits with three more of what follows. */
const BC6H_MODES = [0, 1, 2, 6, 10, 14, 18, 22, 26, 30, 3, 7, 11, 15];

/** Runs in the page: uploads the blocks and draws them, pixel for pixel. */
function drawnByCard({
  bytes,
  number,
  side,
  light,
}: {
  bytes: number[];
  number: number;
  side: number;
  /** Values are light, and shown as sRGB. */
  light: boolean;
}): number[] {
  const canvas = document.createElement('canvas');
  canvas.width = canvas.height = side;
  const gl = canvas.getContext('webgl2', { premultipliedAlpha: false })!;
  for (const name of ['WEBGL_compressed_texture_s3tc', 'EXT_texture_compression_rgtc', 'EXT_texture_compression_bptc'])
    if (gl.getExtension(name) === null) throw new Error(`there is no ${name}`);
  const shader = (kind: number, text: string) => {
    const made = gl.createShader(kind)!;
    gl.shaderSource(made, text);
    gl.compileShader(made);
    return made;
  };
  const program = gl.createProgram();
  gl.attachShader(
    program,
    shader(
      gl.VERTEX_SHADER,
      '#version 300 es\nvoid main(){vec2 p=vec2(gl_VertexID&1,gl_VertexID>>1)*4.0-1.0;gl_Position=vec4(p,0,1);}',
    ),
  );
  gl.attachShader(
    program,
    shader(
      gl.FRAGMENT_SHADER,
      '#version 300 es\nprecision highp float;uniform sampler2D t;out vec4 c;uniform bool light;void main(){vec4 v=texelFetch(t,ivec2(gl_FragCoord.xy),0);vec3 l=clamp(v.rgb,0.0,1.0);vec3 s=mix(1.055*pow(l,vec3(1.0/2.4))-0.055,l*12.92,lessThanEqual(l,vec3(0.0031308)));c=light?vec4(s,1.0):v;}',
    ),
  );
  gl.linkProgram(program);
  gl.useProgram(program);
  gl.uniform1i(gl.getUniformLocation(program, 'light'), light ? 1 : 0);
  gl.bindTexture(gl.TEXTURE_2D, gl.createTexture());
  gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
  gl.compressedTexImage2D(gl.TEXTURE_2D, 0, number, side, side, 0, new Uint8Array(bytes));
  gl.drawArrays(gl.TRIANGLES, 0, 3);
  const out = new Uint8Array(side * side * 4);
  gl.readPixels(0, 0, side, side, gl.RGBA, gl.UNSIGNED_BYTE, out);
  if (gl.getError() !== 0) throw new Error('the card does not draw this');
  return [...out];
}
