// The entry `flintwright/expressions`: a page that imports it has what reads expressions, scales and colors by name from the start, so that
// nothing is fetched for them, and calls throw for what is wrong with them.
import * as values from '@flintwright/core/internal/values';
import { useValues } from './late-reading.js';

useValues(values);
