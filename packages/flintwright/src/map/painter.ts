import type { Camera, CompiledSheet, Rgba, Size } from '@flintwright/core';
import { Renderer } from '../gl/renderer.js';
import type { Sources } from '../load/sources.js';
import type { Cairns } from '../clusters/cluster-layer.js';
import type { Clearance } from '../overlay/obstacles.js';
import type { Markers } from '../markers/markers.js';
import type { Ground } from '../gl/surfaces.js';
import { Labels } from '../labels/labels.js';

/** What one frame shows. */
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

export interface PainterHost {
  readonly canvas: HTMLCanvasElement;
  readonly sprites: Readonly<Record<string, string>>;
  readonly sources: Sources;
  readonly cairns: Cairns;
  readonly markers: Markers;
  readonly clearance: Clearance;
}

/** What lies round a globe, and the haze along its rim. */
const day: { readonly sky: Rgba; readonly haze: Rgba } = {
  sky: [0.937, 0.922, 0.882, 1],
  haze: [0.76, 0.8, 0.8, 1],
};
const night: typeof day = { sky: [0.055, 0.075, 0.09, 1], haze: [0.2, 0.27, 0.31, 1] };

/** Labels are placed anew at most this often, in milliseconds. */
const placing = 90;
/** How long a fading sheet waits for what is still loading, in milliseconds. */
const patience = 1500;

/** Paints frames: ground, labels, clusters, markers, and the sheet before, while it fades. */
export class Painter {
  private renderer: Renderer | undefined;
  private labels: Labels | undefined;
  private placedAt = 0;
  private fadeOver = 0;
  private fadeHeld = 0;
  /** Whether labels are to be placed anew. */
  placeWanted = true;
  /** Whether the ground may differ from what was drawn last. */
  groundWanted = true;
  private shown: FrameScene | undefined;

  constructor(private readonly host: PainterHost) {}

  /** Takes up drawing, first or after a lost context. @throws Fault `gl.*` */
  begin(): void {
    this.renderer = new Renderer(this.host.canvas, this.host.sprites);
    this.labels = new Labels(this.renderer.texts);
  }

  /** Lets go of what a lost context held. */
  lose(): void {
    const { stores, pictures } = this.host.sources;
    for (const store of stores.values()) store.dropBuffers();
    for (const store of pictures.values()) store.dropTextures();
    this.end();
  }

  /** Makes anew what the tiles had in a lost context, once drawing has been taken up again. */
  rebuild(): void {
    const { device } = this;
    if (!device) return;
    const { stores, pictures } = this.host.sources;
    for (const store of stores.values()) store.rebuild(device);
    for (const store of pictures.values()) store.rebuild();
  }

  private end(): void {
    this.renderer?.destroy();
    this.renderer = this.labels = this.shown = undefined;
  }

  get device() {
    return this.renderer?.device;
  }

  get labelTexts(): readonly string[] {
    return this.labels?.texts ?? [];
  }

  /** Draw calls of the last frame. */
  get calls(): number {
    return this.renderer?.calls ?? 0;
  }

  /** Whether something fades or glides, so that another frame is due. */
  get moving(): boolean {
    return (
      this.labels?.fading === true || this.renderer?.heat.moving === true || this.host.cairns.moving || this.fading
    );
  }

  private get fading(): boolean {
    return (this.renderer?.fade.opacity ?? 0) > 0;
  }

  /** Keeps a picture of a scene, to fade over what comes. */
  keep(scene: FrameScene, over: number): void {
    if (!this.renderer || !scene.size.width) return;
    this.paint(scene, 0);
    this.renderer.fade.keep();
    this.fadeOver = over;
    this.fadeHeld = 0;
  }

  /** Draws one frame, with what fades moved on by `elapsed` milliseconds. */
  paint(scene: FrameScene, elapsed: number): void {
    const { size, ratio, sheet, camera, still, moved } = scene;
    const { renderer, labels } = this;
    const { canvas, sources, cairns, markers, clearance } = this.host;
    if (!size.width || !size.height || !renderer || !labels) return;
    const [width, height] = [Math.round(size.width * ratio), Math.round(size.height * ratio)];
    if (canvas.width !== width || canvas.height !== height) Object.assign(canvas, { width, height });
    sources.follow(camera);
    const last = this.shown;
    const unchanged =
      !this.groundWanted &&
      last?.camera === camera &&
      last.sheet === sheet &&
      last.ratio === ratio &&
      last.ground === scene.ground &&
      last.dark === scene.dark;
    this.groundWanted = false;
    this.shown = scene;
    renderer.showGround(
      {
        camera,
        sheet,
        ratio,
        stores: sources.stores,
        drawn: sources.drawn,
        pictures: sources.drawnPictures,
        still,
        ground: scene.ground,
        ...(scene.dark ? night : day),
      },
      unchanged,
    );
    cairns.follow(camera, elapsed, still);
    const now = performance.now();
    if ((this.placeWanted || moved) && now - this.placedAt > placing) {
      labels.place(sources.lists, camera, (crowd) => {
        markers.reserve(camera, crowd);
        for (const box of cairns.boxes(camera)) crowd.take(...box);
        for (const box of clearance.boxes()) crowd.take(...box);
      });
      this.placedAt = now;
      this.placeWanted = false;
    }
    const { boxes, iconBoxes } = renderer;
    const { texts, icons } = labels.boxes(camera, ratio, elapsed, boxes, iconBoxes, still);
    renderer.drawBoxes(camera, 'texts', boxes, texts);
    renderer.drawBoxes(camera, 'sprites', iconBoxes, icons);
    const drawn = cairns.write(camera, ratio, renderer.texts, boxes, iconBoxes);
    renderer.drawBoxes(camera, 'sprites', boxes, drawn.shapes);
    renderer.drawBoxes(camera, 'texts', iconBoxes, drawn.texts);
    const shards = markers.list(camera);
    renderer.drawShards(camera, ratio, markers.shards, markers.shards.places, shards);
    renderer.drawBoxes(camera, 'texts', iconBoxes, markers.writeTexts(camera, ratio, renderer.texts, iconBoxes));
    if (this.fading) this.fade(renderer, scene, elapsed);
  }

  /** What is still on its way is waited for, but not for long; a map that moves lets go of the old picture at once. */
  private fade(renderer: Renderer, { loading, moved }: FrameScene, elapsed: number): void {
    this.fadeHeld += elapsed;
    const held = loading && this.fadeHeld < patience;
    if (!held || moved) renderer.fade.opacity -= elapsed / (moved ? 80 : this.fadeOver);
    renderer.fade.draw();
  }

  destroy(): void {
    const gl = this.device?.gl;
    this.end();
    gl?.getExtension('WEBGL_lose_context')?.loseContext();
  }
}
