// The chart in a published page: bundle this file, and hand it to `flintwright publish --script`. See the README beside it.
import type * as Flintwright from 'flintwright';
import { showOneTide } from './one-tide.js';

declare const map: Flintwright.FlintMap;
declare const flintwright: typeof Flintwright;

void showOneTide(map, flintwright);
