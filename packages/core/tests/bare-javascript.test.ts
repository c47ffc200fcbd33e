import { execFileSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { expect, test } from '@jest/globals';

test('the core imports in bare JavaScript, with nothing of Node or a page in reach', () => {
  const entry = fileURLToPath(import.meta.resolve('@flintwright/core'));
  const script = `for (const name of ['process', 'Buffer', 'fetch', 'window', 'document', 'setTimeout', 'require']) delete globalThis[name];
    const core = await import(${JSON.stringify(entry)});
    const bytes = core.writeTile([new core.TileCutter(core.readGeoJson({ type: 'Point', coordinates: [1, 2] }), 3).tile({ z: 0, x: 0, y: 0 })]);
    if (core.readTile(bytes)[0].count !== 1) throw new Error('no point');`;
  expect(() => execFileSync(process.execPath, ['--input-type=module', '-e', script])).not.toThrow();
});
