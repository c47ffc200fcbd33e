// The published entries: their name, where their types and their code are, and the most that their code may weigh (kilobytes, minified
// and gzipped, with all that a plain import of the entry fetches).
export const entries = [
  { title: '@flintwright/core', folder: 'core', types: 'dist/index.d.ts', code: 'dist/index.js', most: 132 },
  { title: '@flintwright/core/edit', folder: 'core', types: 'dist/edit.d.ts', code: 'dist/edit.js', most: 20 },
  { title: '@flintwright/core/files', folder: 'core', types: 'dist/files.d.ts', code: 'dist/files.js', most: 44 },
  { title: '@flintwright/core/places', folder: 'core', types: 'dist/places.d.ts', code: 'dist/places.js', most: 24 },
  { title: '@flintwright/core/systems', folder: 'core', types: 'dist/systems.d.ts', code: 'dist/systems.js', most: 40 },
  { title: '@flintwright/core/register', folder: 'core', code: 'dist/crs/register/table.generated.js', most: 120 },
  { title: '@flintwright/core/internal', folder: 'core', code: 'dist/internal.js', most: 86 },
  { title: 'flintwright', folder: 'flintwright', types: 'dist/index.d.ts', code: 'dist/index.js', most: 220.4 },
  {
    title: 'flintwright/element',
    folder: 'flintwright',
    types: 'dist/element/flint-map.d.ts',
    code: 'dist/element/flint-map.js',
    most: 221.6,
  },
  {
    title: 'flintwright/files',
    folder: 'flintwright',
    types: 'dist/controls/drop-zone.d.ts',
    code: 'dist/controls/drop-zone.js',
    most: 8,
  },
  {
    title: 'flintwright/draw',
    folder: 'flintwright',
    types: 'dist/draw/draw-bar.d.ts',
    code: 'dist/draw/draw-bar.js',
    most: 28,
  },
  {
    title: 'flintwright/search',
    folder: 'flintwright',
    types: 'dist/search/search-box.d.ts',
    code: 'dist/search/search-box.js',
    most: 10,
  },
  { title: 'flintwright/worker', folder: 'flintwright', code: 'dist/worker.bundle.js', most: 84 },
  { title: '@flintwright/cli', folder: 'cli', types: 'dist/index.d.ts' },
];
