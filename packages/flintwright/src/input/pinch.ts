import { withinLimits, type GestureTools } from './gesture-tools.js';
import { draggedView, viewAround } from './pan-zoom.js';

/** Where a finger is, in pixels of the map. */
interface Finger {
  readonly x: number;
  readonly y: number;
}

/** How two fingers stand to each other: pixels apart, radians of the line between them, and its middle. */
interface Spread {
  readonly distance: number;
  readonly angle: number;
  readonly x: number;
  readonly y: number;
}

/** Pixels that two fingers have to move before it is clear what they mean. */
const slop = 8;

export function spreadOf([a, b]: readonly Finger[]): Spread {
  return {
    distance: Math.hypot(b.x - a.x, b.y - a.y),
    angle: Math.atan2(b.y - a.y, b.x - a.x),
    x: (a.x + b.x) / 2,
    y: (a.y + b.y) / 2,
  };
}

/** Two fingers: apart and together zooms, round each other turns, up and down side by side tilts. */
export class Pinch {
  private mode: 'pinch' | 'tilt' | undefined;

  constructor(
    private readonly tools: GestureTools,
    private readonly start: Spread,
  ) {}

  /** The fingers have moved from one spread to another. */
  move(before: Spread, now: Spread): void {
    const { context, steer } = this.tools;
    this.mode ??= this.meaning(now);
    if (!this.mode) return;
    const { view } = context.state;
    if (this.mode === 'tilt') {
      steer({ tilt: view.tilt - (now.y - before.y) * 0.45 });
      return;
    }
    const degrees = ((now.angle - before.angle) * 180) / Math.PI;
    // The angle begins anew at a half circle.
    const turned = ((((degrees + 180) % 360) + 360) % 360) - 180;
    steer({ center: draggedView(context.camera, [before.x, before.y], [now.x, now.y]).center });
    const zoom = withinLimits(this.tools, view.zoom + Math.log2(now.distance / before.distance));
    steer(viewAround(context.camera, [now.x, now.y], { zoom, bearing: view.bearing - turned }));
  }

  private meaning(now: Spread): 'pinch' | 'tilt' | undefined {
    const { start } = this;
    const [grown, risen] = [Math.abs(now.distance - start.distance), Math.abs(now.y - start.y)];
    const turned = Math.abs(now.angle - start.angle) * now.distance * 0.5;
    if (Math.max(grown, risen, turned) < slop) return undefined;
    // Two fingers side by side that rise or sink together tilt the map.
    const flat = Math.abs(Math.sin(now.angle)) < 0.45;
    return flat && risen > 1.6 * Math.max(grown, turned) ? 'tilt' : 'pinch';
  }
}
