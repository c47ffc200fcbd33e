import * as flintwright from 'flintwright';
import 'flintwright/expressions';
import { showOneTide } from './one-tide.js';

const map = flintwright.createMap('#map', { sheet: '/one-tide.sheet.json', title: 'Tessary Reach, one tide' });
Object.assign(window, { map });
await showOneTide(map, flintwright);
