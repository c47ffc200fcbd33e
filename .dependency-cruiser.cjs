// The allowed arrows: whatever is imported, types included, stands below what imports it, and nothing stands in a circle.
const { existsSync, readdirSync } = require('node:fs');
const { join } = require('node:path');

/** Rooms of each package, lowest first. Rooms on one line may not use each other. */
const rooms = {
  core: [
    ['base'],
    ['geometry'],
    ['crs'],
    ['grid'],
    ['features'],
    ['places'],
    ['edit'],
    ['formats'],
    ['cql2'],
    ['sheet'],
    ['sld'],
    ['view'],
    ['mesh'],
    ['layout'],
    ['tiling'],
    ['publish'],
  ],
  flintwright: [
    ['base'],
    ['worker', 'files'],
    ['gl'],
    ['overlay'],
    ['load'],
    ['markers', 'clusters', 'labels'],
    ['input'],
    ['map'],
    ['controls'],
    ['search', 'draw', 'publish'],
    ['element'],
  ],
};

for (const [name, levels] of Object.entries(rooms)) {
  const home = join(__dirname, 'packages', name, 'src');
  const there = readdirSync(home, { withFileTypes: true }).flatMap((entry) =>
    entry.isDirectory() ? [entry.name] : [],
  );
  const listed = levels.flat();
  const missing = listed.filter((room) => !existsSync(join(home, room)));
  const unlisted = there.filter((room) => !listed.includes(room));
  if (missing.length || unlisted.length)
    throw new Error(
      `rooms of ${name}: no folder for ${missing.join(', ') || 'none'}, not listed: ${unlisted.join(', ') || 'none'}`,
    );
}

const forbid = (name, from, to) => ({ name, severity: 'error', from: { path: from }, to: { path: to } });

const looksDown = Object.entries(rooms).flatMap(([name, levels]) =>
  levels.flatMap((level, i) =>
    level.flatMap((room) => {
      const above = [...level.filter((other) => other !== room), ...levels.slice(i + 1).flat()];
      if (!above.length) return [];
      const home = `^packages/${name}/src`;
      return [forbid(`${name}-${room}-looks-down`, `${home}/${room}/`, `${home}/(${above.join('|')})/`)];
    }),
  ),
);

module.exports = {
  forbidden: [
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
    forbid('core-uses-nothing-above', '^packages/core', '^(packages/(flintwright|cli)|demo|examples)'),
    forbid('browser-uses-core-only', '^packages/flintwright/src', '^(packages/cli|demo|examples)'),
    forbid('cli-uses-core-only', '^packages/cli', '^(packages/flintwright|demo|examples)'),
    forbid('demo-uses-core-and-cli', '^demo', '^(packages/flintwright|examples)'),
    forbid('examples-use-public-names-only', '^examples', '^packages/[^/]+/(src|dist/(?!index))'),
    forbid('rooms-do-not-use-the-door', '^packages/[^/]+/src/.+/', '^packages/[^/]+/src/(index|internal)\\.ts$'),
    {
      name: 'core-knows-no-node',
      severity: 'error',
      from: { path: '^packages/core/src' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'browser-knows-no-node',
      severity: 'error',
      from: { path: '^packages/flintwright/src' },
      to: { dependencyTypes: ['core'] },
    },
    ...looksDown,
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
