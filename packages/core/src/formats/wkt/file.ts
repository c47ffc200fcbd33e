// Files of well-known text and well-known binary: one geometry a line, or one in all.
import { tellLostIds } from '../files/ids.js';
import { crsByCode } from '../../crs/match.js';
import type { FileFeature, FileLayer, FileReader, FileWriter } from '../files/feature-file.js';
import { Records } from '../files/records.js';
import { mendGeometry } from '../files/mend.js';
import { decodeText } from '../files/text.js';
import { geometryBytes, parseGeometryBytes } from './geometry-bytes.js';
import { tellUneven } from './uneven.js';
import { geometryText, parseGeometryText, type TextGeometry } from './geometry-text.js';
import { together } from '../files/together.js';

async function layerOf(
  name: string,
  read: readonly TextGeometry[],
  features: readonly FileFeature[],
): Promise<FileLayer[]> {
  const srid = read.find((one) => one.srid !== undefined)?.srid;
  return [
    {
      name: name.replace(/\.[^.]*$/, ''),
      features,
      crs: srid ? await crsByCode(String(srid)) : undefined,
      crsSource: srid ? 'the SRID in the file' : 'nothing says it',
    },
  ];
}

/** Reads well-known text (OGC 06-103r4): one geometry a line, or a geometry that runs over several. */
export const wktReader: FileReader = {
  async read({ name, bytes }, warnings, { part, strict }) {
    const reader = new Records(warnings, strict);
    const first = 1 + (part?.lines ?? 0);
    const text = decodeText(bytes, warnings).replace(/^\uFEFF/, '');
    const records: { text: string; line: number }[] = [];
    let depth = 0;
    text.split('\n').forEach((line, i) => {
      if (depth > 0) records[records.length - 1].text += `\n${line}`;
      else if (line.trim()) records.push({ text: line, line: i + first });
      depth += (line.match(/\(/g)?.length ?? 0) - (line.match(/\)/g)?.length ?? 0);
    });
    const read: TextGeometry[] = [];
    const features = records.map(({ text: own, line }): FileFeature => {
      const geometry = reader.geometry(`line ${line}`, () => {
        const found = parseGeometryText(own.replace(/;\s*$/, ''), `line ${line}`);
        read.push(found);
        if (found.measured) warnings.measures(`line ${line}`);
        return found.geometry && mendGeometry(found.geometry, `line ${line}`, warnings);
      });
      return { type: 'Feature', geometry, properties: {} };
    });
    if (!part) reader.finish(features);
    return layerOf(name, read, features);
  },
};

/** Reads one geometry of well-known binary, or lines of it in hexadecimal. */
export const wkbReader: FileReader = {
  async read({ name, bytes }, warnings, { strict }) {
    const isText = bytes.length > 1 && bytes[0] >= 0x30;
    const records = isText
      ? decodeText(bytes, warnings)
          .split(/\s+/)
          .filter(Boolean)
          .map((hex) =>
            Uint8Array.from({ length: hex.length >> 1 }, (_, i) => parseInt(hex.slice(2 * i, 2 * i + 2), 16)),
          )
      : [bytes];
    const read: TextGeometry[] = [];
    const reader = new Records(warnings, strict);
    const features = records.map((record, i): FileFeature => {
      const place = isText ? `line ${i + 1}` : name;
      const geometry = reader.geometry(place, () => {
        const found = parseGeometryBytes(record, place);
        read.push(found);
        if (found.measured) warnings.measures(place);
        return found.geometry && mendGeometry(found.geometry, place, warnings);
      });
      return { type: 'Feature', geometry, properties: {} };
    });
    reader.finish(features);
    const isEmpty = ({ geometry }: FileFeature) =>
      geometry?.type === 'GeometryCollection' && !geometry.geometries.length;
    // All of a file without features is one empty collection.
    return layerOf(name, read, features.length === 1 && isEmpty(features[0]) ? [] : features);
  },
};

/** Writes well-known text, one geometry a line; attributes are left out. */
export const wktWriter: FileWriter = {
  write(layers, warnings) {
    const features = layers.flatMap((layer) => layer.features);
    tellLost(features, warnings);
    tellUneven(features, warnings);
    return Promise.resolve(
      new TextEncoder().encode(features.map(({ geometry }) => `${geometryText(geometry)}\n`).join('') || '\n'),
    );
  },
};

/** Writes all geometries as one of well-known binary; attributes are left out. */
export const wkbWriter: FileWriter = {
  write(layers, warnings) {
    const features = layers.flatMap((layer) => layer.features);
    tellLost(features, warnings);
    const geometries = features.flatMap(({ geometry }) => geometry ?? []);
    if (geometries.length < features.length)
      warnings.add(
        'skipped.placeless',
        'features have no geometry',
        'The format does not support them; they were left out.',
        undefined,
        features.length - geometries.length,
      );
    if (geometries.length > 1)
      warnings.add(
        'mended.parts',
        'a file of well-known binary is one geometry',
        'The features were written as its parts.',
        undefined,
        geometries.length,
      );
    return Promise.resolve(geometryBytes(together(geometries) ?? { type: 'GeometryCollection', geometries: [] }));
  },
};

function tellLost(features: readonly FileFeature[], warnings: Parameters<FileWriter['write']>[1]): void {
  const keys = new Set(features.flatMap(({ properties }) => Object.keys(properties)));
  for (const key of keys) warnings.add('skipped.attribute', 'the format has no attributes', 'They were left out.', key);
  tellLostIds(features, warnings);
}
