// What `publish` puts into a page or a folder: the files that it may, the attributes that are used, all of it readable, nothing that breaks out.
import { mkdirSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import { afterAll, describe, expect, test } from '@jest/globals';
import { Archive, attributesOf, bufferSource, readTile } from '@flintwright/core';
import { checkPublishedPage } from '@flintwright/core/publish';
import { runHere as run } from './command.ts';

const folder = mkdtempSync(join(tmpdir(), 'flintwright-'));
const at = (name: string) => join(folder, name);
afterAll(() => rmSync(folder, { recursive: true }));
const write = (name: string, content: unknown) => {
  mkdirSync(join(at(name), '..'), { recursive: true });
  writeFileSync(at(name), typeof content === 'string' ? content : JSON.stringify(content));
  return at(name);
};
const square = (x: number, y: number, side: number, properties: object) => ({
  type: 'Feature',
  properties,
  geometry: {
    type: 'Polygon',
    coordinates: [
      [
        [x, y],
        [x + side, y],
        [x + side, y + side],
        [x, y + side],
        [x, y],
      ],
    ],
  },
});
const collection = (...features: object[]) => ({ type: 'FeatureCollection', features });
/** The JSON of the elements of a page: the sheet, and features by data entry. */
interface Entry {
  readonly crs?: string;
  readonly join: { readonly table: readonly Record<string, unknown>[] };
}
interface Collection {
  readonly features: readonly {
    readonly properties: Record<string, unknown>;
    readonly geometry: { readonly coordinates: number[][][] };
  }[];
}
function contentOf(path: string): {
  sheet: { readonly title: string; readonly data: Record<string, Entry> };
  features: Record<string, Collection>;
} {
  const elements = [
    ...readFileSync(path, 'utf8').matchAll(
      /<script type="application\/json" id="(\w+)[^"]*"(?: data-of="([^"]*)")?>([^<]*)</g,
    ),
  ];
  return {
    sheet: JSON.parse(elements.find(([, id]) => id === 'sheet')![3]) as ReturnType<typeof contentOf>['sheet'],
    features: Object.fromEntries(
      elements.filter(([, id]) => id === 'features').map(([, , of, json]) => [of, JSON.parse(json) as Collection]),
    ),
  };
}

const beds = {
  sheet: 1,
  data: { beds: { features: 'beds.geojson', join: { table: 'yield.csv', match: ['code', 'bed'] } } },
  layers: [
    {
      id: 'beds',
      of: 'beds',
      where: 'depth < 9',
      fill: { color: { by: 'tonnes', classes: { breaks: [5], values: ['#111111', '#eeeeee'] } } },
      popup: { title: 'name', lines: { Grown: { is: 'kind' } } },
    },
  ],
};
const source = write('beds/beds.sheet.json', beds);
write(
  'beds/beds.geojson',
  collection(
    square(0, 0, 1, { code: 'a', name: 'A', depth: 1, owner: 'private' }),
    square(2, 0, 1, { code: 'b', depth: 2 }),
  ),
);
write('beds/yield.csv', 'bed,tonnes,kind,price\na,3,flat,9\nb,8,cupped,7\n');

describe('what is published', () => {
  test('a joined table goes along as rows; attributes that nothing uses stay behind, and the summary names them', async () => {
    const { status, out } = await run('publish', source, '-o', at('used.html'), '--json');
    expect(status).toBe(0);
    expect(JSON.parse(out)).toMatchObject({ leftOut: { beds: ['owner'] } });
    const { sheet, features } = contentOf(at('used.html'));
    expect(sheet.data['beds'].join).toEqual({
      match: ['code', 'bed'],
      table: [
        { bed: 'a', tonnes: 3, kind: 'flat' },
        { bed: 'b', tonnes: 8, kind: 'cupped' },
      ],
    });
    expect(features['beds'].features.map(({ properties }) => properties)).toEqual([
      { code: 'a', name: 'A', depth: 1 },
      { code: 'b', depth: 2 },
    ]);
    const plain = await run('publish', source, '-o', at('used'));
    expect(plain.out).toMatch(/left out of beds, as the sheet does not use them: owner/);
    expect(JSON.parse(readFileSync(at('used/data/beds-table.json'), 'utf8'))[0]).toEqual({
      bed: 'a',
      tonnes: 3,
      kind: 'flat',
    });
    expect(readFileSync(at('used/data/beds.geojson'), 'utf8')).not.toContain('private');
    await run('publish', source, '-o', at('all.html'), '--attributes', 'all');
    expect(contentOf(at('all.html')).features['beds'].features[0].properties.owner).toBe('private');
    expect(contentOf(at('all.html')).sheet.data['beds'].join.table[0].price).toBe(9);
  });

  test('a tile archive goes along without the attributes that nothing uses; tiles, ids and shapes stay', async () => {
    const plots = collection(
      ...Array.from({ length: 30 }, (_, i) => ({
        id: i + 1,
        ...(square(i / 8, (i * 7) % 40, 1 / 16, { code: `c${i}`, depth: i, owner: `private ${i}` }) as object),
      })),
    );
    write('tiles/plots.geojson', plots);
    await run('tile', at('tiles/plots.geojson'), '-o', at('tiles/plots.pmtiles'), '--zooms', '0-6');
    const sheet = write('tiles/tiles.sheet.json', {
      sheet: 1,
      data: { plots: { tiles: 'plots.pmtiles' } },
      layers: [{ id: 'plots', of: 'plots/plots', where: 'depth < 9', fill: '#ff0000', popup: { title: 'code' } }],
    });
    const contents = async (bytes: Uint8Array) => {
      const archive = await Archive.open(bufferSource(bytes));
      const tiles = [];
      for await (const { tile, run } of archive.entries())
        for (const { name, ids, coords, ringStarts, ...block } of readTile(gunzipSync((await archive.tile(tile))!)))
          tiles.push({
            at: [tile, run, name, [...ids], [...coords], [...ringStarts]],
            rows: Array.from(ids, (_, f) => attributesOf({ name, ids, coords, ringStarts, ...block }, f)),
          });
      return { fields: (await archive.metadata())['vector_layers'] as { fields: object }[], tiles };
    };
    const before = await contents(readFileSync(at('tiles/plots.pmtiles')));
    const { status, out } = await run('publish', sheet, '-o', at('tiles/page.html'), '--json');
    expect([status, JSON.parse(out)]).toMatchObject([0, { leftOut: { plots: ['owner'] } }]);
    await run('publish', sheet, '-o', at('tiles/folder'));
    const page = readFileSync(at('tiles/page.html'), 'utf8');
    const packed = /id="archive-0"[^>]*>"([^"]*)"/.exec(page)![1];
    for (const bytes of [Buffer.from(packed, 'base64'), readFileSync(at('tiles/folder/data/plots.pmtiles'))]) {
      const after = await contents(bytes);
      expect(Object.keys(after.fields[0].fields)).toEqual(['code', 'depth']);
      expect(after.tiles).toEqual(
        before.tiles.map(({ at, rows }) => ({ at, rows: rows.map(({ code, depth }) => ({ code, depth })) })),
      );
    }
    await run('publish', sheet, '-o', at('tiles/all'), '--attributes', 'all');
    expect(readFileSync(at('tiles/all/data/plots.pmtiles'))).toEqual(readFileSync(at('tiles/plots.pmtiles')));
  });

  test('features on a national grid lie in longitude and latitude, and are not projected a second time', async () => {
    const grid = write('grid/grid.sheet.json', {
      sheet: 1,
      data: { d: { features: 'd.geojson', crs: 'EPSG:32625' } },
      layers: [{ id: 'd', of: 'd', fill: '#ff0000' }],
    });
    write('grid/d.geojson', collection(square(641000, 4942000, 1000, {})));
    expect((await run('publish', grid, '-o', at('grid.html'))).status).toBe(0);
    const { sheet, features } = contentOf(at('grid.html'));
    expect(sheet.data['d'].crs).toBeUndefined();
    const [lon, lat] = features['d'].features[0].geometry.coordinates[0][0];
    expect([lon, lat]).toEqual([expect.closeTo(-31.22, 1), expect.closeTo(44.62, 1)]);
  });

  test('a page that is not complete is noticed', async () => {
    const page = readFileSync(at('used.html'), 'utf8');
    expect(await checkPublishedPage(page)).toEqual({ features: { beds: 2 }, archives: [] });
    const away = (pattern: RegExp, by = '') => checkPublishedPage(page.replace(pattern, by));
    await expect(away(/<script type="application\/json" id="sheet">.*?<\/script>/s)).rejects.toThrow(/it has no sheet/);
    await expect(away(/data-of="beds"/, 'data-of="bed"')).rejects.toThrow(/there is no data entry "bed"/);
    await expect(away(/\{"type":"FeatureCollection","features":\[\]\}/, '"beds.geojson"')).rejects.toThrow(
      /are not in it/,
    );
    await expect(away(/"sheet":1/, '"sheet":2')).rejects.toThrow(/\$\.sheet/);
  });

  test.each([
    ['above it', '../secret.geojson'],
    ['anywhere', '/etc/hostname'],
    ['that a link leads to', 'link.geojson'],
  ])('a file %s is refused unless its folder is named', async (_, address) => {
    write('secret.geojson', collection(square(0, 0, 1, {})));
    mkdirSync(at('own'), { recursive: true });
    rmSync(at('own/link.geojson'), { force: true });
    symlinkSync(at('secret.geojson'), at('own/link.geojson'));
    const own = write('own/own.sheet.json', {
      sheet: 1,
      data: { d: { features: address } },
      layers: [{ id: 'd', of: 'd', fill: '#fff' }],
    });
    for (const target of ['own.html', 'own-folder']) {
      rmSync(at(target), { force: true, recursive: true });
      const { status, err } = await run('publish', own, '-o', at(target));
      expect([status, err]).toEqual([1, expect.stringMatching(/is not in the folder of the sheet[\s\S]*--allow/)]);
      expect(() => readFileSync(at(target === 'own.html' ? target : `${target}/index.html`))).toThrow();
    }
    if (address.startsWith('/')) return;
    expect((await run('publish', own, '-o', at('own.html'), '--allow', folder, '--replace')).status).toBe(0);
  });

  test.each([
    [
      'an archive that is none',
      { data: { d: { tiles: 'text.pmtiles' } }, layers: [{ id: 'd', of: 'd/x', fill: '#fff' }] },
      /is not a tile archive/,
    ],
    ['an icon that is none', { data: {}, icons: { i: 'text.png' }, layers: [] }, /is not a picture/],
  ])('%s is refused', async (_, sheet, message) => {
    for (const name of ['text.pmtiles', 'text.png']) write(`odd/${name}`, 'root:x:0:0\n');
    const odd = write('odd/odd.sheet.json', { sheet: 1, ...sheet });
    for (const target of ['odd.html', 'odd-folder']) {
      const { status, err } = await run('publish', odd, '-o', at(target), '--replace');
      expect([status, err]).toEqual([1, expect.stringMatching(message)]);
    }
  });

  test('hostile texts in every string of a sheet and its data stay texts, in both forms', async () => {
    const hostile = [
      '</script><meta http-equiv=refresh content=0>',
      '"><img src=x onerror=alert(1)>',
      '<!--<script>',
      '__proto__',
      '\u2028\u2029&amp;\'"`${1}',
    ];
    for (const [i, text] of hostile.entries()) {
      const name = `hostile-${i}`;
      write(`${name}/a.geojson`, collection(square(0, 0, 1, { [text]: text, name: text })));
      write(`${name}/t.csv`, `name,n\n"${text.replaceAll('"', '""')}",1\n`);
      const path = write(
        `${name}/s.sheet.json`,
        // Written as text: a literal could not have a key `__proto__`.
        `{"sheet":1,"title":${JSON.stringify(text)},"palette":{${JSON.stringify(text)}:"#fff"},"data":{${JSON.stringify(text)}:{"features":"a.geojson","credit":${JSON.stringify(text)},"join":{"table":"t.csv","match":["name","name"]}}},"layers":[{"id":${JSON.stringify(text)},"title":${JSON.stringify(text)},"of":${JSON.stringify(text.split('/')[0])},"fill":"#fff"}]}`.replace(
          /"of":"(<|"><img src=x onerror=alert\(1\)>|)"/,
          `"of":${JSON.stringify(text)}`,
        ),
      );
      for (const target of [`${name}.html`, `${name}-folder`]) {
        const { status, err } = await run(
          'publish',
          path,
          '-o',
          at(target),
          '--title',
          text,
          '--language',
          text,
          '--attributes',
          'all',
        );
        // A name that no layer can draw is refused by the sheet's own checks, and then nothing is written.
        if (status !== 0) {
          expect([text, err]).toEqual([text, expect.stringMatching(/\$\./)]);
          continue;
        }
        const page = readFileSync(at(target.endsWith('.html') ? target : `${target}/index.html`), 'utf8');
        expect([text, page.match(/<meta/g)!.length]).toEqual([text, 4]);
        expect(page.match(/<script[\s>]/gi)!.length).toBe(page.match(/<\/script>/gi)!.length);
        expect(page.includes('<img src=x')).toBe(false);
        if (target.endsWith('.html')) expect(contentOf(at(target)).sheet.title).toBe(text);
      }
    }
  });
});
