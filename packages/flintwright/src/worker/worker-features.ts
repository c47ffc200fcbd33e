import { useShapeFunctions } from '@flintwright/core/internal';
import { allShapeFunctions } from '@flintwright/core/internal/shapes';
import { featureTools } from './features.js';
import { serve } from './handler.js';
import { HeldFeatures } from './held-features.js';
import { plainSurface } from './plain-surface.js';
import { valueTools } from './value-tools.js';

useShapeFunctions(allShapeFunctions);

/** The worker of tiles and features on web Mercator or a plan: it carries no projections. */
serve({ surface: plainSurface, values: valueTools, hold: (scene) => new HeldFeatures(scene, featureTools) });
