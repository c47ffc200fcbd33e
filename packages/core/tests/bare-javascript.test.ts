import { execFileSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { expect, test } from '@jest/globals';
import { build } from 'esbuild';

test('the core imports in bare JavaScript, with nothing of Node or a page in reach', async () => {
  const { outputFiles } = await build({
    entryPoints: [fileURLToPath(new URL('../src/index.ts', import.meta.url))],
    bundle: true,
    format: 'esm',
    platform: 'neutral',
    mainFields: ['module', 'main'],
    external: ['stream'],
    write: false,
  });
  const [{ contents }] = outputFiles;
  const url = `data:text/javascript;base64,${Buffer.from(contents).toString('base64')}`;
  const script = `const url = ${JSON.stringify(url)};
    for (const name of ['process', 'Buffer', 'fetch', 'window', 'document', 'setTimeout', 'require']) delete globalThis[name];
    const core = await import(url);
    const bytes = core.writeTile([new core.TileCutter(core.readGeoJson({ type: 'Point', coordinates: [1, 2] }), 3).tile({ z: 0, x: 0, y: 0 })]);
    if (core.readTile(bytes)[0].count !== 1) throw new Error('no point');`;
  expect(() => execFileSync(process.execPath, ['--input-type=module', '-'], { input: script })).not.toThrow();
});
