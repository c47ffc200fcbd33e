/** The allowed arrows: each package may only reach for what stands below it. */
const below = (name, from, to) => ({ name, severity: 'error', from: { path: from }, to: { path: to } });

// Rooms of the core, lowest first. A room may use its own files and any room before it.
const rooms = [
  'base',
  'geometry',
  'crs',
  'grid',
  'features',
  'formats',
  'sheet',
  'view',
  'mesh',
  'layout',
  'paint',
  'tiling',
  'places',
];

module.exports = {
  forbidden: [
    {
      name: 'no-circles',
      severity: 'error',
      from: {},
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
    below('core-uses-nothing-above', '^packages/core', '^(packages/(flintwright|cli)|demo|examples)'),
    below('browser-uses-core-only', '^packages/flintwright', '^(packages/cli|demo|examples)'),
    below('cli-uses-core-only', '^packages/cli', '^(packages/flintwright|demo|examples)'),
    below('demo-uses-core-and-cli', '^demo', '^(packages/flintwright|examples)'),
    below('examples-use-public-names-only', '^examples', '^packages/[^/]+/(src|dist/(?!index))'),
    {
      name: 'core-knows-no-node',
      severity: 'error',
      from: { path: '^packages/core/src', pathNot: '\\.test\\.ts$' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'browser-knows-no-node',
      severity: 'error',
      from: { path: '^packages/flintwright/src' },
      to: { dependencyTypes: ['core'] },
    },
    ...rooms
      .slice(0, -1)
      .map((room, i) =>
        below(
          `room-${room}-looks-down`,
          `^packages/core/src/${room}/`,
          `^packages/core/src/(${rooms.slice(i + 1).join('|')})/`,
        ),
      ),
    { name: 'everything-resolves', severity: 'error', from: {}, to: { couldNotResolve: true } },
  ],
  options: {
    doNotFollow: { path: '(node_modules|/dist/)' },
    exclude: { path: '(/dist/|\\.bundle\\.js)' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.base.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['types', 'import', 'default'],
      extensions: ['.ts', '.js', '.d.ts'],
    },
  },
};
