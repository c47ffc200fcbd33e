// The public register of coordinate systems: every definition there and back, and against the small registry.
import { createRequire } from 'node:module';
import { describe, expect, test } from '@jest/globals';
import {
  crsCodes,
  findCrs,
  getCrs,
  makeCrs,
  readCrs,
  transformer,
  type Crs,
  type CrsDefinition,
} from '@flintwright/core';
import {
  crsByCode,
  crsFromText,
  findSystems,
  inSystem,
  openRegister,
  provideRegister,
  writeWkt,
} from '@flintwright/core/files';

import { authorityAxes } from '@flintwright/core/internal';

const require = createRequire(import.meta.url);
interface Listed {
  readonly code: string;
  readonly name: string;
  readonly kind: string;
  readonly wkt: string | null;
}
/** Two-dimensional systems of the package that have a definition. */
const source = Object.values(require('epsg-index/all.json') as Record<string, Listed>).filter(
  ({ kind, wkt, name }) => /PROJCRS|GEOGCRS/.test(kind) && wkt && !name.includes('3D'),
);
/** Five points inside an area of use. */
function inside([west, south, east, north]: readonly [number, number, number, number]): [number, number][] {
  const width = (east < west ? east + 360 : east) - west;
  return [
    [0.5, 0.5],
    [0.2, 0.2],
    [0.8, 0.2],
    [0.2, 0.8],
    [0.8, 0.8],
  ].map(([u, v]) => [west + u * width, south + v * (north - south)]);
}

describe('the register', () => {
  test('where its table does not come, that is a fault with a hint; the next who asks has it fetched again', async () => {
    const { registerTable } = await import('@flintwright/core/register');
    provideRegister(() => Promise.reject(new TypeError('no network')));
    await expect(openRegister()).rejects.toMatchObject({
      code: 'crs.register',
      hint: expect.stringContaining('connection'),
    });
    provideRegister(() => Promise.resolve(registerTable));
    expect((await crsByCode('EPSG:32625')).id).toBe('EPSG:32625');
  });

  test('has every system of the data set, with the same meaning as its well-known text, number by number', async () => {
    const register = await openRegister();
    // With fourteen that are out of date, and still met, and six that count from Paris or Ferro.
    expect(register.all).toHaveLength(source.length + 20);
    expect(source).toHaveLength(6893);
    const meaning = (text: string) => {
      try {
        // Where the package says nothing of the axes, the table does; see below.
        const { id: _, axes: __, ...rest } = readCrs(text);
        return JSON.stringify(rest);
      } catch (error) {
        return (error as Error).message.replace(/ of ".*"/, '');
      }
    };
    const ids = new Map(register.all.map(({ id }) => [id.replace(/^\w+:/, ''), id]));
    for (const one of source) {
      const text = register.text(ids.get(one.code)!)!;
      if (meaning(text) !== meaning(one.wkt!.replace(/,EXTENSION\[[^\]]*\]/g, '')))
        throw new Error(`${one.code}: ${text}`);
    }
  });

  test('has the axes of the authority: as the small registry has them, and to the south, the west and from the pole', async () => {
    const register = await openRegister();
    const wrong: unknown[] = [];
    for (const code of crsCodes()) {
      const [ours, theirs] = [getCrs(code).definition, register.definition(code)];
      if (!ours.method || !theirs || ours.method.startsWith('polar') || Math.abs(ours.parameters?.lat0 ?? 0) === 90)
        continue;
      const axes = ({ axes: own = ['east', 'north'] }: CrsDefinition) => own.join();
      if (axes(ours) !== axes(theirs)) wrong.push([code, axes(ours), axes(theirs)]);
    }
    expect(wrong).toEqual([]);
    const degrees = getCrs('OGC:CRS84');
    const written = async (code: string, lon: number, lat: number) => {
      const crs = await crsByCode(code);
      const [xy, out]: [[number, number], [number, number]] = [
        [0, 0],
        [NaN, NaN],
      ];
      transformer(degrees, crs)(lon, lat, xy);
      const { toXY, fromXY } = authorityAxes(crs);
      const own: [number, number] = [...xy];
      fromXY(own);
      out.splice(0, 2, ...own);
      toXY(out);
      expect([code, out[0], out[1]]).toEqual([code, ...xy]);
      return [xy, own];
    };
    for (const [code, lon, lat, turn] of [
      ['EPSG:32661', 30, 80, ([x, y]: number[]) => [y, x]],
      ['EPSG:5041', 30, 80, ([x, y]: number[]) => [x, y]],
      ['EPSG:3031', 30, -80, ([x, y]: number[]) => [x, y]],
      ['EPSG:3035', 10, 50, ([x, y]: number[]) => [y, x]],
      ['EPSG:2044', 105, 20, ([x, y]: number[]) => [y, x]],
      ['EPSG:2048', 19, -30, ([x, y]: number[]) => [-x, -y]],
      ['EPSG:22275', 15, -23, ([x, y]: number[]) => [-x, -y]],
      ['EPSG:5513', 15, 50, ([x, y]: number[]) => [-y, -x]],
      ['EPSG:5514', 15, 50, ([x, y]: number[]) => [x, y]],
    ] as const) {
      const [xy, own] = await written(code, lon, lat);
      expect([code, ...own]).toEqual([code, ...turn(xy)]);
    }
    // Both Krovak systems have the same places, and southings and westings are positive (Guidance Note 7-2, section 3.1.2).
    const [[x, y], [southing, westing]] = await written('EPSG:5513', 16.849772, 50.209012);
    expect([southing, westing]).toEqual([expect.closeTo(-y, 6), expect.closeTo(-x, 6)]);
    expect([southing, westing].every((v) => v > 0)).toBe(true);
  });

  test('systems on one datum are not shifted against each other; other meridians and old names are known', async () => {
    const out: [number, number] = [0, 0];
    const moved = async (from: string, to: string, x: number, y: number) => {
      expect(transformer(await crsByCode(from), await crsByCode(to))(x, y, out)).toBe(true);
      return [...out];
    };
    // The worked example of the Guidance Note 7-2, section 3.1.2, on the datum's own degrees.
    const [east, north] = await moved('EPSG:4156', 'EPSG:5513', 16.8497717, 50.2090119);
    expect([-north, -east]).toEqual([expect.closeTo(1050538.64, 0), expect.closeTo(568991, -1)]);
    expect(await moved('EPSG:5513', 'EPSG:5514', east, north)).toEqual([
      expect.closeTo(east, 6),
      expect.closeTo(north, 6),
    ]);
    // Degrees from Ferro, 17°40' to the west.
    expect(await moved('EPSG:4818', 'EPSG:4156', 32 + 2 / 3, 50)).toEqual([
      expect.closeTo(15, 9),
      expect.closeTo(50, 9),
    ]);
    // Grads from Paris: the observatory, 2°20'14.025" east of Greenwich.
    expect(await moved('EPSG:4807', 'EPSG:27572', 0, 52)).toEqual([
      expect.closeTo(600000, 3),
      expect.closeTo(2200000, 3),
    ]);
    const paris = await crsByCode('EPSG:4807');
    expect(paris.inverse(0, 54, out)).toBe(true);
    expect(out).toEqual([expect.closeTo(2 + 20 / 60 + 14.025 / 3600, 8), expect.closeTo(48.6, 9)]);
    for (const name of [
      'CRS:84',
      'crs84',
      'urn:x-ogc:def:crs:OGC:1.3:CRS84',
      'http://www.opengis.net/def/crs/OGC/1.3/CRS84',
    ])
      expect([name, (await crsByCode(name)).id]).toEqual([name, 'OGC:CRS84']);
    for (const name of [
      'urn:x-ogc:def:crs:EPSG:4326',
      'urn:x-ogc:def:crs:EPSG:6.11:4326',
      'urn:ogc:def:crs:EPSG::4326',
    ])
      expect([name, (await crsByCode(name)).id]).toEqual([name, 'EPSG:4326']);
  });

  test('spherical world systems are known by their codes, and take degrees as they are', async () => {
    const [degrees, web] = [getCrs('OGC:CRS84'), getCrs('EPSG:3857')];
    const placed = async (code: string, lon: number, lat: number) => {
      const crs = (await crsByCode(code))!;
      const [out, back]: [[number, number], [number, number]] = [
        [NaN, NaN],
        [NaN, NaN],
      ];
      expect(transformer(degrees, crs)(lon, lat, out)).toBe(true);
      expect(transformer(crs, degrees)(...out, back)).toBe(true);
      expect(Math.hypot(back[0] - lon, back[1] - lat)).toBeLessThan(1e-9);
      return out;
    };
    const arc = Math.PI / 180;
    const close = ([x, y]: number[], [u, v]: number[]) => expect(Math.hypot(x - u, y - v)).toBeLessThan(1e-3);
    // The map of the web's first code, with which this one agrees (EPSG:3785, now 3857).
    const mercator: [number, number] = [0, 0];
    transformer(degrees, web)(-31, 44, mercator);
    close(await placed('EPSG:3785', -31, 44), mercator);
    close(await placed('EPSG:4055', -31, 44), [-31, 44]);
    for (const code of ['EPSG:3786', 'EPSG:4088'])
      close(await placed(code, -31, 44), [-31 * arc * 6371007, 44 * arc * 6371007]);
    close(
      await placed('ESRI:53004', -31, 44),
      mercator.map((v) => (v * 6371000) / 6378137),
    );
    // Snyder, USGS PP 1395, pages 185 and 76, on other spheres: equal areas about the pole, and on a cylinder at 30°.
    const [r, half] = [6371228, Math.sin((45 - 22) * arc)];
    close(await placed('EPSG:3408', 30, 44), [2 * r * half * Math.sin(30 * arc), -2 * r * half * Math.cos(30 * arc)]);
    close(await placed('EPSG:3410', 30, 44), [
      r * 30 * arc * Math.cos(30 * arc),
      (r * Math.sin(44 * arc)) / Math.cos(30 * arc),
    ]);
  });

  test('97 in a hundred are built, and come back to 1e-9 degrees from five points of their area; the rest is counted by reason', async () => {
    const register = await openRegister();
    const reasons = new Map<string, string[]>();
    const lost: string[] = [];
    let built = 0;
    const [there, back]: [[number, number], [number, number]] = [
      [0, 0],
      [0, 0],
    ];
    for (const { id, area } of register.all) {
      let crs: Crs;
      try {
        crs = makeCrs(register.definition(id)!);
      } catch (error) {
        const reason = /(method|parameter) "[^"]*"/.exec((error as Error).message)?.[0] ?? (error as Error).message;
        reasons.set(id.slice(0, 4), [...(reasons.get(id.slice(0, 4)) ?? []), reason]);
        continue;
      }
      built++;
      for (const [lon, lat] of inside(area)) {
        const ok = crs.forward(lon, lat, there) && crs.inverse(there[0], there[1], back);
        const turn = Math.abs(((((back[0] - lon + 540) % 360) + 360) % 360) - 180) * Math.cos((lat * Math.PI) / 180);
        if (!ok || turn > 1e-9 || Math.abs(back[1] - lat) > 1e-9) lost.push(id);
      }
    }
    expect((built - new Set(lost).size) / register.all.length).toBeGreaterThan(0.985);
    // Systems of the whole world that two methods do not reach to their edges, and one picture of the globe from above.
    expect([...new Set(lost)]).toEqual(['ESRI:53021', 'ESRI:54021', 'ESRI:54028', 'ESRI:102038']);
    const counted = (list: readonly string[] = []) =>
      Object.fromEntries([...new Set(list)].map((reason) => [reason, list.filter((one) => one === reason).length]));
    expect(counted(reasons.get('EPSG'))).toEqual({
      'method "Lambert_Conic_Conformal_(West_Orientated)"': 15,
      'method "Bonne_(South_Orientated)"': 1,
      'method "Krovak_Modified"': 1,
      'method "Krovak_Modified_(North_Orientated)"': 1,
      'method "Laborde_Oblique_Mercator"': 1,
      'method "Lambert_Conic_Near-Conformal"': 1,
      'method "New_Zealand_Map_Grid"': 1,
      'method "Lambert_Conformal_Conic_2SP_Belgium"': 1,
      'parameter "Initial longitude"': 2,
    });
    expect([...reasons].filter(([authority]) => authority !== 'EPSG').flatMap(([, list]) => list)).toHaveLength(69);
  });

  test('agrees with the small registry to a millimeter wherever both have a code', async () => {
    const register = await openRegister();
    const areas = new Map(register.all.map(({ id, area }) => [id, area]));
    let compared = 0;
    const [a, b]: [[number, number], [number, number]] = [
      [0, 0],
      [0, 0],
    ];
    const off: string[] = [];
    for (const id of crsCodes()) {
      const area = areas.get(id);
      if (!area) continue;
      const [small, large] = [findCrs(id)!, makeCrs(register.definition(id)!)];
      compared++;
      const unit = small.isGeographic ? 111320 : 1;
      for (const [lon, lat] of inside(area))
        if (
          !small.forward(lon, lat, a) ||
          !large.forward(lon, lat, b) ||
          Math.hypot(a[0] - b[0], a[1] - b[1]) * unit > 1e-3
        )
          off.push(`${id} ${a.join()} ${b.join()}`);
    }
    expect(compared).toBeGreaterThan(200);
    expect(off).toEqual([]);
  });

  test('worked examples of the standard, through the register alone (Guidance Note 7-2)', async () => {
    const register = await openRegister();
    const at: [number, number] = [0, 0];
    const project = (code: number, lon: number, lat: number) => {
      makeCrs(register.definition(`EPSG:${code}`)!).forward(lon, lat, at);
      return [...at];
    };
    const dms = (d: number, m: number, s: number) => d + m / 60 + s / 3600;
    // 3.2.4.1, Hotine variant B: Timbalai 1948 / RSO Borneo (m).
    const [e, n] = project(29873, dms(115, 48, 19.8196), dms(5, 23, 14.1129));
    expect([e, n]).toEqual([expect.closeTo(679245.73, 1), expect.closeTo(596562.78, 1)]);
    // 3.1.1.2, Lambert conformal conic (1SP): JAD69 / Jamaica National Grid.
    expect(project(24200, -dms(76, 56, 37.26), dms(17, 55, 55.8))).toEqual([
      expect.closeTo(255966.58, 1),
      expect.closeTo(142493.51, 1),
    ]);
    // 3.2.2.1, Cassini-Soldner: Trinidad 1903 / Trinidad Grid, in links.
    expect(project(30200, -62, 10)).toEqual([expect.closeTo(66644.94, 1), expect.closeTo(82536.22, 1)]);
    // 3.3.2, Krovak east north: S-JTSK.
    expect(project(5514, 16.84977198, 50.20901177)).toEqual([
      expect.closeTo(-568991, -1),
      expect.closeTo(-1050538.6, -1),
    ]);
  });

  test('any code and any .prj text works: by code, by name, in the dialect without codes, with its datum', async () => {
    expect((await crsByCode('urn:ogc:def:crs:EPSG::3763')).id).toBe('EPSG:3763');
    // The dialect of .prj files: names of its own, no code.
    const dialect =
      'PROJCS["ETRS_1989_Portugal_TM06",GEOGCS["GCS_ETRS_1989",DATUM["D_ETRS_1989",SPHEROID["GRS_1980",6378137.0,298.257222101]],PRIMEM["Greenwich",0.0],UNIT["Degree",0.0174532925199433]],PROJECTION["Transverse_Mercator"],PARAMETER["False_Easting",0.0],PARAMETER["False_Northing",0.0],PARAMETER["Central_Meridian",-8.133108333333334],PARAMETER["Scale_Factor",1.0],PARAMETER["Latitude_Of_Origin",39.66825833333333],UNIT["Meter",1.0]]';
    expect(await crsFromText(dialect, 'a.prj')).toMatchObject({
      crs: { id: 'EPSG:3763' },
      note: 'a.prj, as EPSG:3763',
    });
    const old = (name: string, datum: string, spheroid: string, projection: string) =>
      crsFromText(
        `PROJCS["${name}",GEOGCS["GCS_${datum}",DATUM["D_${datum}",SPHEROID[${spheroid}]],PRIMEM["Greenwich",0.0],UNIT["Degree",0.0174532925199433]],${projection},UNIT["Meter",1.0]]`,
        'x.prj',
      ).then(({ crs }) => crs.id);
    const utm = (zone: number) =>
      `PROJECTION["Transverse_Mercator"],PARAMETER["False_Easting",500000.0],PARAMETER["False_Northing",0.0],PARAMETER["Central_Meridian",${6 * zone - 183}.0],PARAMETER["Scale_Factor",0.9996],PARAMETER["Latitude_Of_Origin",0.0]`;
    expect(await old('WGS_1984_UTM_Zone_25N', 'WGS_1984', '"WGS_1984",6378137.0,298.257223563', utm(25))).toBe(
      'EPSG:32625',
    );
    expect(await old('ETRS_1989_UTM_Zone_32N', 'ETRS_1989', '"GRS_1980",6378137.0,298.257222101', utm(32))).toBe(
      'EPSG:25832',
    );
    expect(
      await old('NAD_1983_UTM_Zone_10N', 'North_American_1983', '"GRS_1980",6378137.0,298.257222101', utm(10)),
    ).toBe('EPSG:26910');
    expect(
      await old(
        'British_National_Grid',
        'OSGB_1936',
        '"Airy_1830",6377563.396,299.3249646',
        'PROJECTION["Transverse_Mercator"],PARAMETER["False_Easting",400000.0],PARAMETER["False_Northing",-100000.0],PARAMETER["Central_Meridian",-2.0],PARAMETER["Scale_Factor",0.9996012717],PARAMETER["Latitude_Of_Origin",49.0]',
      ),
    ).toBe('EPSG:27700');
    // The same name with other numbers is another system.
    expect((await crsFromText(dialect.replace('-8.1', '-9.1'), 'c.prj')).crs.id).not.toBe('EPSG:3763');
    // A datum of 1950 lies some hundred meters off; its mean shift is known by its name.
    const [before, now] = await Promise.all([crsByCode('EPSG:23031'), crsByCode('EPSG:32631')]);
    const layer = {
      name: 'x',
      crs: before,
      crsSource: '',
      features: [
        {
          type: 'Feature' as const,
          geometry: { type: 'Point' as const, coordinates: [430000, 4580000] },
          properties: {},
        },
      ],
    };
    const [x, y] = (inSystem(layer, now).features[0].geometry as unknown as { coordinates: number[] }).coordinates;
    expect([Math.round(430000 - x), Math.round(4580000 - y)]).toEqual([
      expect.closeTo(94, -1),
      expect.closeTo(204, -1),
    ]);
    await expect(crsByCode('EPSG:999999')).rejects.toMatchObject({ code: 'crs.unknown' });
    await expect(crsByCode('EPSG:27200')).rejects.toMatchObject({ code: 'crs.method' });
  });

  test('what is written as well-known text is read again as the same system', async () => {
    const [a, b]: [[number, number], [number, number]] = [
      [0, 0],
      [0, 0],
    ];
    const codes = [
      'EPSG:4326',
      'EPSG:3857',
      'EPSG:32625',
      'EPSG:27700',
      'EPSG:3035',
      'EPSG:28992',
      'EPSG:2154',
      'EPSG:2263',
      'EPSG:2056',
      'EPSG:3031',
      'EPSG:5070',
      'EPSG:5041',
    ];
    for (const id of codes) {
      const crs = findCrs(id)!;
      const { crs: again } = await crsFromText(writeWkt(crs.definition), 'x.prj');
      const area = (await openRegister()).areaOf(id)!;
      for (const [lon, lat] of inside(area)) {
        expect([id, crs.forward(lon, lat, a) && again.forward(lon, lat, b)]).toEqual([id, true]);
        expect([id, Math.hypot(a[0] - b[0], a[1] - b[1]) < 1e-3]).toEqual([id, true]);
      }
    }
    const odd: CrsDefinition = { ...findCrs('EPSG:3857')!.definition, id: 'odd', method: 'gnomonic' };
    expect(() => writeWkt(odd)).toThrow(expect.objectContaining({ code: 'crs.write' }) as unknown as Error);
  });

  test('is searched by name, place and code; what is out of use comes last', async () => {
    const [first] = await findSystems('utm 25n wgs 84');
    expect(first).toEqual({
      id: 'EPSG:32625',
      name: 'WGS 84 / UTM zone 25N',
      areaName: expect.any(String),
      area: [-36, 0, -30, 84],
      kind: 'projected',
    });
    const names = (await findSystems('germany', 200)).map(({ name }) => /deprecated/.test(name));
    expect(names.indexOf(true) === -1 || names.lastIndexOf(false) < names.indexOf(true)).toBe(true);
    expect(await findSystems('no such place at all')).toEqual([]);
  });
});
