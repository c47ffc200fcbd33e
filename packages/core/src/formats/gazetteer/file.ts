// A gazetteer as a file of features: written from anything that has names, and read back as points.
import { getCrs } from '../../crs/registry.js';
import { PlaceStore, sourceOfBytes } from '../../places/store.js';
import { buildGazetteer } from '../../places/write.js';
import type { FileFeature, FileReader, FileWriter } from '../files/feature-file.js';
import { often } from '../files/feature-file.js';
import { fieldNames } from '../files/change.js';
import { inLonLat } from '../files/system.js';

/** Reads a gazetteer as points with their names, kinds and what they lie in. */
export const gazetteerReader: FileReader = {
  async read({ name, bytes }, _, { progress }) {
    const store = await PlaceStore.open(sourceOfBytes(bytes));
    const features: FileFeature[] = [];
    for (let i = 0; i < store.count; i++) {
      if (i % often === 0) progress?.(i / store.count);
      const { role, name: title, number, names, kind, within, at, list, id } = await store.entry(i);
      const others = Object.fromEntries(
        names.map(([language, other]) => [language ? `name:${language}` : 'alt_name', other]),
      );
      const properties = {
        ...(number ? { number, street: title } : { name: title }),
        ...others,
        ...{ role, kind, within, list },
        ...(id === undefined ? {} : { source: id }),
      };
      features.push({ type: 'Feature', geometry: { type: 'Point', coordinates: at }, properties });
    }
    const crs = getCrs('OGC:CRS84');
    const title = store.contents.title || name.replace(/\.[^.]*$/, '');
    return [{ name: title, features, crs, crsSource: 'a gazetteer has longitude and latitude' }];
  },
};

/** Writes a gazetteer of all that has a name or an address. */
export const gazetteerWriter: FileWriter = {
  write(layers, warnings, { addressOrder } = {}) {
    const lists = layers.map((layer) => ({ name: layer.name, features: inLonLat(layer).features }));
    const { bytes, nameless, unplaced } = buildGazetteer(lists, '', addressOrder ? { addressOrder } : {});
    if (nameless)
      warnings.add(
        'skipped.nameless',
        'features have neither a name nor an address',
        `They were left out. Names are read from "name" or "title", addresses from "street" and "number"; columns found: ${fieldNames(layers).join(', ') || 'none'}.`,
        undefined,
        nameless,
      );
    if (unplaced)
      warnings.add('skipped.unplaced', 'named features have no geometry', 'They were left out.', undefined, unplaced);
    return Promise.resolve(bytes);
  },
};
