import { areaOf, lengthOf } from '../crs/measure.js';
import type { ShapeFunctions } from './shape-functions.js';
import { spatialTest } from './spatial.js';

/** What expressions call that measure shapes or compare them; a program may fetch it when a sheet first takes it. */
export const allShapeFunctions: ShapeFunctions = { spatialTest, lengthOf, areaOf };
