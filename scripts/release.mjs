// npm run release -- --dry-run: builds, tests and packs the packages, installs them into fresh applications, draws a map in each, and says what
// would be published. Without --dry-run it publishes after all of that. --tested leaves the build and the tests out, for a run that has just done both.
import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { bundleApplications, compileApplication, drawApplications } from './release/applications.mjs';
import { checkMaps, traceFault } from './release/maps.mjs';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const names = ['core', 'flintwright', 'cli'];
/** Bytes that the command line may take once it is installed with everything it needs. */
const installedLimit = 40e6;

const { values } = parseArgs({ options: { 'dry-run': { type: 'boolean' }, tested: { type: 'boolean' } } });
const isDryRun = values['dry-run'] === true;
const say = (step, result) => console.log(`${step.padEnd(34)} ${result}`);
const megabytes = (bytes) => `${(bytes / 1e6).toFixed(1)} MB`;
const readJson = (file) => JSON.parse(readFileSync(file, 'utf8'));
const inRoot = { cwd: root, encoding: 'utf8', stdio: ['ignore', 'pipe', 'inherit'] };

const manifests = names.map((name) => readJson(join(root, 'packages', name, 'package.json')));
const { version } = manifests[0];
if (manifests.some((manifest) => manifest.version !== version))
  throw new Error(
    `expected one version in all packages, got ${manifests.map((manifest) => manifest.version).join(', ')}`,
  );
const heading = new RegExp(`^## ${version.replaceAll('.', '\\.')} \\((.*)\\)$`, 'm');
const date = heading.exec(readFileSync(join(root, 'CHANGELOG.md'), 'utf8'))?.[1];
if (!date) throw new Error(`CHANGELOG.md has no section "## ${version} (…)": write it, or run npm run versions`);
const isClean = execFileSync('git', ['status', '--porcelain'], inRoot).trim() === '';
if (!isDryRun) {
  if (!isClean) throw new Error('there are uncommitted changes: commit them first');
  if (!/^\d{4}-\d\d-\d\d$/.test(date))
    throw new Error(`CHANGELOG.md dates ${version} "${date}": write the date of the release, as in 2026-12-31`);
}

if (!values.tested) execFileSync('npm', ['run', 'verify'], { cwd: root, stdio: 'inherit' });

const folder = mkdtempSync(join(tmpdir(), 'release-'));
try {
  const packed = names.flatMap((name) =>
    JSON.parse(
      execFileSync('npm', ['pack', '--json', '--pack-destination', folder, join(root, 'packages', name)], inRoot),
    ),
  );
  const archives = packed.map(({ filename }) => join(folder, filename));

  // The command line alone, as a user installs it.
  const home = join(folder, 'application');
  mkdirSync(home);
  writeFileSync(
    join(home, 'package.json'),
    JSON.stringify({ name: 'fresh', version: '1.0.0', private: true, type: 'module' }),
  );
  const warnings = install(home, archives);
  if (warnings.length) throw new Error(`npm install warns:\n${warnings.join('\n')}`);
  const { bytes, blocks, packages } = weigh(home);
  say(
    'install the packages',
    `no warnings; ${packages} packages, ${megabytes(bytes)} (${megabytes(blocks)} on this disk)`,
  );
  if (bytes > installedLimit)
    throw new Error(`expected at most ${megabytes(installedLimit)} installed, got ${megabytes(bytes)}`);

  runCommandLine(home);
  const bill = JSON.parse(
    execFileSync('npm', ['sbom', '--sbom-format', 'cyclonedx', '--omit', 'dev'], { ...inRoot, cwd: home }),
  );
  const hasText = (name) =>
    readdirSync(join(home, 'node_modules', name)).some((file) => /^(licen[cs]e|copying)/i.test(file));
  const unlicensed = bill.components
    .map(({ group, name, licenses }) => ({ name: group ? `${group}/${name}` : name, licenses }))
    .filter(({ name, licenses }) => !licenses?.length && !hasText(name))
    .map(({ name }) => name);
  if (unlicensed.length) throw new Error(`packages without a license: ${unlicensed.join(', ')}`);
  say('bill of materials', `CycloneDX ${bill.specVersion}, ${bill.components.length} components, each with a license`);
  say('source maps', `${checkMaps(home)} lead to sources in the packages`);

  say('compile against the packages', compileApplication(home));
  const applications = await bundleApplications(home);
  for (const [name, result] of await drawApplications(applications)) say(`a map with ${name}`, result);
  say('source map of a fault', await traceFault(home));

  console.log(`\nTo publish, ${version} (${date}), ${isClean ? 'all committed' : 'with uncommitted changes'}:`);
  for (const { name, size, unpackedSize, entryCount } of packed)
    console.log(
      `  ${`${name}@${version}`.padEnd(28)} ${entryCount} files, ${megabytes(size)} packed, ${megabytes(unpackedSize)} unpacked`,
    );
  if (isDryRun) console.log('Dry run: nothing was published.');
  else {
    writeFileSync(join(root, `bill-of-materials-${version}.json`), JSON.stringify(bill, null, 2));
    execFileSync('npx', ['changeset', 'publish'], { cwd: root, stdio: 'inherit' });
  }
} finally {
  rmSync(folder, { recursive: true, force: true });
}

/** Installs archives into a folder. Returns the warnings of npm, without those about this machine. */
function install(home, archives) {
  const log = join(home, 'npm-warnings');
  execFileSync(
    'sh',
    ['-c', `npm install --no-audit --no-fund "$@" > /dev/null 2> ${JSON.stringify(log)}`, 'sh', ...archives],
    {
      cwd: home,
      stdio: 'inherit',
    },
  );
  const isOld = Number(process.versions.node.split('.')[0]) < 22;
  return readFileSync(log, 'utf8')
    .split('\n')
    .filter((line) => line.startsWith('npm warn') && !/^npm warn Unknown \w+ config/.test(line))
    .filter((line) => !(isOld && line.startsWith('npm warn EBADENGINE')));
}

/** The sizes of what is installed: bytes of the files, bytes on this disk, and the number of packages. */
function weigh(home) {
  const size = (...options) =>
    Number(execFileSync('du', ['-s', ...options, 'node_modules'], { cwd: home, encoding: 'utf8' }).split('\t')[0]);
  const packages = Object.keys(readJson(join(home, 'package-lock.json')).packages).length - 1;
  return { bytes: size('-b'), blocks: size('-B1'), packages };
}

/** Cuts, inspects and finds with the installed command. */
function runCommandLine(home) {
  const run = (...args) =>
    execFileSync(join(home, 'node_modules/.bin/flintwright'), args, { cwd: home, encoding: 'utf8' });
  if (run('--version').trim() !== version) throw new Error(`expected flintwright --version to print ${version}`);
  const feature = {
    type: 'Feature',
    properties: { name: 'Hallow Quay' },
    geometry: { type: 'Point', coordinates: [-31.1845, 44.6218] },
  };
  writeFileSync(join(home, 'places.geojson'), JSON.stringify({ type: 'FeatureCollection', features: [feature] }));
  run('tile', 'places.geojson', '-o', 'places.pmtiles');
  if (!/places/.test(run('inspect', 'places.pmtiles'))) throw new Error('inspect does not list the layer that was cut');
  run('convert', 'places.geojson', '-o', 'places.gpkg');
  if (!/Hallow Quay/.test(run('convert', 'places.gpkg', '-o', '-', '--as', 'geojson')))
    throw new Error('the GeoPackage lost a feature');
  say('the installed command', `${version}: tile, inspect, convert to GeoPackage and back`);
}
