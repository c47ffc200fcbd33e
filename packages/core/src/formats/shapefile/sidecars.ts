/**
 * Endings of the files that go with a `.shp` file, as its published descriptions name them: the technical description of shapefiles (1998), and
 * Library of Congress, Sustainability of Digital Formats, fdd000280.
 */
const endings = 'shx dbf prj cpg sbn sbx fbn fbx ain aih atx ixs mxs shp.xml'.split(' ');

/** Endings of the files that are read with a `.shp` file: index, attributes, coordinate system, encoding. */
export const readSidecars = ['shx', 'dbf', 'prj', 'cpg'] as const;

/**
 * Whether a file goes with a shapefile: it has the same stem, and an ending that the descriptions of the format name.
 *
 * @param name of the file
 * @param shapefile name of the `.shp` file
 */
export function isSidecar(name: string, shapefile: string): boolean {
  const stem = shapefile.replace(/shp$/i, '').toLowerCase();
  const own = name.toLowerCase();
  return own.startsWith(stem) && endings.includes(own.slice(stem.length));
}
