import type { CompiledSheet } from '@flintwright/core';
import type { Camera, Rgba, Size } from '@flintwright/core/internal';
import { LatePart } from '../base/late-part.js';
import type { Clusters } from '../clusters/clusters.js';
import type { Graphics } from '../gl/graphics.js';
import type { Renderer } from '../gl/renderer.js';
import type { Ground } from '../gl/surfaces.js';
import type * as LabelTools from '../labels/labels.js';
import type { Sources } from '../load/sources.js';
import type { Markers } from '../markers/markers.js';
import type { Obstacles } from '../overlay/obstacles.js';
import type { Context } from './context.js';

/** Contents of one frame. */
export interface FrameScene {
  readonly camera: Camera;
  readonly size: Size;
  readonly ratio: number;
  readonly sheet: CompiledSheet;
  /** Whether something is still on its way. */
  readonly loading: boolean;
  /** Whether the view differs from that of the frame before. */
  readonly moved: boolean;
  /** Whether nothing is to glide or fade. */
  readonly still: boolean;
  /** Shapes of tiles, on surfaces that bend them. */
  readonly ground: Ground | undefined;
  /** Whether the look of the map is dark. */
  readonly dark: boolean;
}

/** Parts and tools of the painter. */
export interface PainterTools {
  readonly context: Context;
  readonly graphics: Graphics;
  readonly sources: Sources;
  readonly clusterLayers: Clusters;
  readonly markers: Markers;
  readonly obstacles: Obstacles;
}

/** The sky round a globe, and the haze along its rim. */
const day: { readonly sky: Rgba; readonly haze: Rgba } = {
  sky: [0.937, 0.922, 0.882, 1],
  haze: [0.76, 0.8, 0.8, 1],
};
const night: typeof day = { sky: [0.055, 0.075, 0.09, 1], haze: [0.2, 0.27, 0.31, 1] };

/** Labels are placed anew at most this often, in milliseconds. */
const placing = 90;
/** How long a fading sheet waits for what is still loading, in milliseconds. */
const patience = 1500;

/** Whether the ground looks the same in two scenes, as far as they tell. */
const isAlike = (a: FrameScene | undefined, b: FrameScene): boolean =>
  a?.camera === b.camera && a.sheet === b.sheet && a.ratio === b.ratio && a.ground === b.ground && a.dark === b.dark;

/** Whether some of the data is there to be drawn. */
function hasGround({ entries }: Sources): boolean {
  for (const { tiles, images } of entries.values()) if (tiles.length || images.length) return true;
  return false;
}

/** Paints frames: ground, labels, clusters, markers, and the sheet before, while it fades. */
export class Painter {
  /** What places labels: fetched when a sheet first has some. */
  private readonly labelling: LatePart<typeof LabelTools>;
  private labels: LabelTools.Labels | undefined;
  private placedAt = 0;
  /** Whether the first picture has stood there whole; nothing fades into that one. */
  private opened = false;
  private fadeOver = 0;
  private fadeHeld = 0;
  private shown: FrameScene | undefined;
  /** What the map shows, while that is nothing but its background. */
  private blank: FrameScene | undefined;

  constructor(private readonly tools: PainterTools) {
    this.labelling = new LatePart(tools.context, () => import('../labels/labels.js'));
  }

  /** Takes up drawing, first or after a lost context. @throws Fault `gl.*` */
  begin(): void {
    // A context that is there has its pixels made anew for each side that changes.
    this.fit(this.tools.context.state);
    this.tools.graphics.begin();
  }

  /** The labels, once a sheet has some and what places them is there. */
  private labelsOf({ layers }: CompiledSheet, renderer: Renderer): LabelTools.Labels | undefined {
    if (this.labels || !layers.some(({ hasLabel }) => hasLabel)) return this.labels;
    const part = this.labelling.now;
    const { texts } = renderer;
    return (this.labels = part && texts && new part.Labels(texts));
  }

  /** Gives the canvas as many pixels as the map has. */
  private fit({ size, ratio }: Pick<FrameScene, 'size' | 'ratio'>): void {
    const { canvas } = this.tools.context;
    const [width, height] = [Math.round(size.width * ratio), Math.round(size.height * ratio)];
    if (!width || !height) return;
    if (canvas.width !== width) canvas.width = width;
    if (canvas.height !== height) canvas.height = height;
  }

  /** Lets go of all that drawing holds. */
  end(): void {
    this.tools.graphics.end();
    this.labels = this.shown = this.blank = undefined;
  }

  /** Sets all texts anew, after fonts have come. */
  resetTexts(): void {
    this.tools.graphics.renderer?.knownTexts?.clear();
    this.labels?.reset();
    this.tools.context.invalidate('overlay', true);
  }

  get labelTexts(): readonly string[] {
    return this.labels?.texts ?? [];
  }

  /** Draw calls of the last frame. */
  get calls(): number {
    return this.tools.graphics.renderer?.calls ?? 0;
  }

  /** Whether something fades or glides, so that another frame is due. */
  get moving(): boolean {
    return (
      this.labels?.fading === true ||
      this.tools.graphics.renderer?.moving === true ||
      this.tools.clusterLayers.moving ||
      this.fading
    );
  }

  /** Whether icons are still to be drawn. */
  get isFilling(): boolean {
    return this.tools.graphics.renderer?.sprites.isFilling ?? false;
  }

  private get fading(): boolean {
    return (this.tools.graphics.renderer?.fade.opacity ?? 0) > 0;
  }

  /** Keeps a picture of a scene, to fade over what comes. */
  keep(scene: FrameScene, over: number): void {
    if (!this.opened || !this.tools.graphics.renderer || !scene.size.width) return;
    this.paint(scene, 0);
    this.tools.graphics.renderer.fade.keep();
    this.fadeOver = over;
    this.fadeHeld = 0;
  }

  /**
   * Draws one frame, with what fades moved on by `elapsed` milliseconds.
   *
   * @param afresh whether it is drawn in any case; otherwise a map that shows nothing but its background, and still will, is left alone
   */
  paint(scene: FrameScene, elapsed: number, afresh = true): void {
    const { size, ratio, sheet, camera, still, moved } = scene;
    const { renderer } = this.tools.graphics;
    const { stale, states } = this.tools.context;
    const { sources, clusterLayers, markers, obstacles } = this.tools;
    if (!size.width || !size.height || !renderer) return;
    this.fit(scene);
    sources.settle(camera);
    const last = this.shown;
    const unchanged = !stale.ground && isAlike(last, scene);
    stale.ground = false;
    this.shown = scene;
    renderer.warm(sheet, camera.view.zoom);
    const isEmpty = !hasGround(sources);
    const takeIcons = (now: boolean) =>
      renderer.sprites.take(sheet, now, () => this.tools.context.invalidate('ground', true));
    takeIcons(!isEmpty || this.opened);
    const { blank } = this;
    this.blank = isEmpty && !markers.size && !clusterLayers.isThere && !this.fading ? scene : undefined;
    if (!afresh && this.blank && isAlike(blank, scene)) {
      stale.labels = false;
      this.opened ||= !scene.loading;
      return;
    }
    renderer.showGround(
      {
        camera,
        sheet,
        ratio,
        data: sources.entries,
        still,
        ground: scene.ground,
        hasStates: (layer) => states.has(layer),
        ...(scene.dark ? night : day),
      },
      unchanged,
    );
    clusterLayers.follow(camera, elapsed, still);
    const labels = this.labelsOf(sheet, renderer);
    const now = performance.now();
    if ((stale.labels || moved) && now - this.placedAt > placing) {
      // The first picture is the same whatever came first.
      if (!this.opened) labels?.forget();
      labels?.place([...sources.entries.values()], camera, (grid) => {
        markers.reserve(camera, grid);
        for (const box of clusterLayers.boxes(camera)) grid.take(...box);
        for (const box of obstacles.boxes()) grid.take(...box);
      });
      this.placedAt = now;
      stale.labels = false;
    }
    const { boxes, iconBoxes } = renderer;
    if (labels) {
      labels.boxes(camera, ratio, elapsed, { texts: boxes.clear(), symbols: iconBoxes.clear() }, still || !this.opened);
      renderer.drawBoxes(camera, 'texts', boxes);
      renderer.drawBoxes(camera, 'sprites', iconBoxes);
    }
    this.opened ||= !scene.loading && !stale.labels;
    const counts = clusterLayers.isThere ? renderer.texts : undefined;
    if (counts) {
      const figures = clusterLayers.write(camera, {
        ...{ shapes: boxes.clear(), texts: iconBoxes.clear(), atlas: counts, ratio },
        isDark: scene.dark,
      });
      // Symbols ask for the icons that they are made of while they are written: their bodies are to be in the same frame as their counts.
      takeIcons(true);
      renderer.drawBoxes(camera, 'sprites', boxes);
      if (figures) renderer.drawClusters(camera, ratio, figures);
      renderer.drawBoxes(camera, 'texts', iconBoxes);
    }
    const count = markers.list(camera);
    renderer.drawMarkers(camera, ratio, markers.sprites, markers.sprites.places, count);
    const letters = markers.hasTexts ? renderer.texts : undefined;
    if (letters) {
      markers.writeTexts(camera, ratio, letters, iconBoxes.clear());
      renderer.drawBoxes(camera, 'texts', iconBoxes);
    }
    if (this.fading) this.fade(renderer, scene, elapsed);
  }

  /** Tiles on their way are waited for, but not for long; a map that moves lets go of the old picture at once. */
  private fade(renderer: Renderer, { loading, moved }: FrameScene, elapsed: number): void {
    this.fadeHeld += elapsed;
    const held = loading && this.fadeHeld < patience;
    if (!held || moved) renderer.fade.opacity -= elapsed / (moved ? 80 : this.fadeOver);
    renderer.fade.draw();
  }
}
