// What tests of written files share: a layer of features, and SQLite as an independent reader.
import { createRequire } from 'node:module';
import { getCrs } from '@flintwright/core';
import type { FileFeature, FileLayer } from '@flintwright/core/files';

interface Engine {
  readonly Database: new (bytes?: Uint8Array) => {
    run(sql: string): void;
    exec(sql: string): { readonly values: readonly (readonly unknown[])[] }[];
    export(): Uint8Array;
    close(): void;
  };
}
export const initSqlite = createRequire(import.meta.url)('sql.js') as () => Promise<Engine>;

/** A layer in longitude and latitude. */
export const layerOf = (features: readonly FileFeature[], name = 'things'): FileLayer => ({
  name,
  features,
  crs: getCrs('OGC:CRS84'),
  crsSource: '',
});
