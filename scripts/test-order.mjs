// The order of the test files: those that take longest first, so that no worker is left alone with one of them at the end.
import { createRequire } from 'node:module';

// Its module is CommonJS; runners of tests and Node name its default export in two ways.
const { default: Sequencer } = createRequire(import.meta.url)('@jest/test-sequencer');

const slow = [
  ...['workbench', 'draw', 'examples', 'files', 'surfaces', 'map', 'journeys', 'states', 'beds', 'network', 'bundlers'],
  ...['search', 'pictures', 'silence', 'things', 'symbols', 'page-manners', 'cli', 'data-changes', 'label-places'],
];
const rank = ({ path }) => {
  const at = slow.findIndex((name) => path.endsWith(`/tests/${name}.test.ts`));
  return at < 0 ? slow.length : at;
};

export default class SlowFirst extends Sequencer {
  sort(tests) {
    return [...tests].sort((a, b) => rank(a) - rank(b) || (a.path < b.path ? -1 : 1));
  }
}
