import { jsonOf } from '../../base/depth.js';
import { Fault } from '../../base/fault.js';
import { getCrs } from '../../crs/registry.js';
import type { FileFeature, FileGeometry, FileLayer, FilePosition, FileReader } from '../files/feature-file.js';
import { parseJson } from '../files/json.js';
import { mendGeometry } from '../files/mend.js';
import { decodeText } from '../files/text.js';
import type { WarningList } from '../files/warnings.js';

type Json = Readonly<Record<string, unknown>>;

/** Reads TopoJSON (the format's specification 1.0), quantized or not: each of its objects is a layer. */
export const topoJsonReader: FileReader = {
  read({ bytes }, warnings) {
    const topology = parseJson(decodeText(bytes, warnings)) as Json;
    return Promise.resolve(new Topology(topology, warnings).layers());
  },
};

const faulty = (at: string, message: string) =>
  new Fault('topojson.form', message, 'Write the file again as TopoJSON.', at);

const listOf = (value: unknown, at: string): readonly unknown[] => {
  if (!Array.isArray(value)) throw faulty(at, `expected a list, got ${jsonOf(value)}`);
  return value;
};

class Topology {
  private readonly arcs: FilePosition[][];
  private readonly scale: readonly [number, number];
  private readonly origin: readonly [number, number];
  private readonly quantised: boolean;

  constructor(
    private readonly json: Json,
    private readonly warnings: WarningList,
  ) {
    const transform = json['transform'] as { scale?: unknown; translate?: unknown } | undefined;
    this.quantised = transform !== undefined;
    const pair = (value: unknown, at: string): [number, number] => {
      const [x, y] = listOf(value, at);
      if (!Number.isFinite(x) || !Number.isFinite(y)) throw faulty(at, 'expected two finite numbers');
      return [x as number, y as number];
    };
    this.scale = transform ? pair(transform.scale, '$.transform.scale') : [1, 1];
    this.origin = transform ? pair(transform.translate, '$.transform.translate') : [0, 0];
    this.arcs = listOf(json['arcs'], '$.arcs').map((arc, a) => this.arc(listOf(arc, `$.arcs[${a}]`), a));
  }

  /** An arc; the positions of quantized ones are steps from one to the next (section 2.1.4). */
  private arc(steps: readonly unknown[], a: number): FilePosition[] {
    let [x, y] = [0, 0];
    return steps.map((step, i) => {
      const [dx, dy, ...more] = listOf(step, `$.arcs[${a}][${i}]`) as number[];
      if (!Number.isFinite(dx) || !Number.isFinite(dy))
        throw faulty(`$.arcs[${a}][${i}]`, `expected a position of two numbers, got ${jsonOf(step)}`);
      if (!this.quantised) return [dx, dy, ...more];
      x += dx;
      y += dy;
      return this.placed([x, y]);
    });
  }

  private placed([x, y, ...more]: readonly number[]): FilePosition {
    return this.quantised
      ? [x * this.scale[0] + this.origin[0], y * this.scale[1] + this.origin[1], ...more]
      : [x, y, ...more];
  }

  layers(): FileLayer[] {
    const objects = this.json['objects'];
    if (typeof objects !== 'object' || objects === null) throw faulty('$.objects', 'expected named objects');
    return Object.entries(objects as Readonly<Record<string, Json>>).map(([name, object]) => {
      const at = `$.objects.${name}`;
      const members =
        object?.['type'] === 'GeometryCollection' && object['properties'] === undefined
          ? listOf(object['geometries'], `${at}.geometries`)
          : [object];
      return {
        name,
        features: members.map((member, i) => this.feature(member as Json, `${at}.geometries[${i}]`)),
        crs: getCrs('OGC:CRS84'),
        crsSource: 'TopoJSON has longitude and latitude where nothing says otherwise',
      };
    });
  }

  private feature(object: Json, at: string): FileFeature {
    const id = object?.['id'];
    const geometry = this.geometry(object, at, 0);
    return {
      type: 'Feature',
      ...(typeof id === 'string' || typeof id === 'number' ? { id } : {}),
      geometry: geometry && mendGeometry(geometry, at, this.warnings),
      properties: (object['properties'] ?? {}) as Json,
    };
  }

  private geometry(object: Json, at: string, depth: number): FileGeometry | null {
    if (depth > 64) throw faulty(at, 'geometry collections are nested more than 64 deep');
    const type = object?.['type'];
    const arcs = (level: number) => this.lines(object['arcs'], `${at}.arcs`, level);
    switch (type) {
      case null:
      case undefined:
        return null;
      case 'Point':
        return { type, coordinates: this.placed(listOf(object['coordinates'], `${at}.coordinates`) as number[]) };
      case 'MultiPoint':
        return {
          type,
          coordinates: listOf(object['coordinates'], `${at}.coordinates`).map((p) =>
            this.placed(listOf(p, at) as number[]),
          ),
        };
      case 'LineString':
        return { type, coordinates: arcs(0) as FilePosition[] };
      case 'MultiLineString':
      case 'Polygon':
        return { type, coordinates: arcs(1) as FilePosition[][] };
      case 'MultiPolygon':
        return { type, coordinates: arcs(2) as FilePosition[][][] };
      case 'GeometryCollection':
        return {
          type,
          geometries: listOf(object['geometries'], `${at}.geometries`).flatMap(
            (member, i) => this.geometry(member as Json, `${at}.geometries[${i}]`, depth + 1) ?? [],
          ),
        };
      default:
        throw faulty(`${at}.type`, `${jsonOf(type)} is no geometry type`);
    }
  }

  /** Lines stitched of arcs; the first position of each further arc is the last of the one before (section 2.1.3). */
  private lines(value: unknown, at: string, level: number): unknown {
    const list = listOf(value, at);
    if (level) return list.map((inner, i) => this.lines(inner, `${at}[${i}]`, level - 1));
    return list.flatMap((index, i) => {
      const n = Number(index);
      const arc = this.arcs[n < 0 ? ~n : n];
      if (!Number.isInteger(index) || !arc)
        throw faulty(`${at}[${i}]`, `there is no arc ${jsonOf(index)}; there are ${this.arcs.length}`);
      const way = n < 0 ? [...arc].reverse() : arc;
      return i ? way.slice(1) : way;
    });
  }
}
