import type { CompiledLayer, SquareGrid, TileAddress } from '@flintwright/core';
import type { Camera, LabelStyle, LocalFrame, PreparedTile, ZoomStep } from '@flintwright/core/internal';
import type { Device } from './device.js';
import type { Patch } from './mask.js';
import type { TileBuffers } from './tile-buffers.js';

/** How the labels of a prepared layer look between two zooms; undefined for labels that are not shown. */
export interface LabelStyles {
  readonly step: ZoomStep;
  readonly styles: readonly (LabelStyle | undefined)[];
}

/** A prepared tile. Its geometry lies on the graphics card, and is gone here but for its marks, which labels keep off. */
export type KeptTile = Omit<PreparedTile, 'mesh'> & { readonly marks: PreparedTile['mesh']['marks'] };

/** One tile of a source: loading, ready, or known to be empty or faulty. */
export interface TileEntry {
  readonly tile: TileAddress;
  readonly key: number;
  readonly frame: LocalFrame;
  state: 'loading' | 'ready' | 'empty' | 'failed';
  /** Version of the geometry (which layers, which filters) that `prepared` was made for. */
  version: number;
  bytes?: Uint8Array | 'cut' | undefined;
  prepared?: KeptTile;
  buffers?: TileBuffers;
  /** Zoom step of each prepared layer's rows. */
  steps: ZoomStep[];
  labelStyles: (LabelStyles | undefined)[];
  /** Which prepared layer belongs to a layer of the sheet, as asked so far; −1 for none. */
  indices: WeakMap<CompiledLayer, number>;
  used: number;
  failedAt: number;
  /** Bytes that it holds. */
  weight: number;
  controller?: AbortController;
}

/** A tile whose geometry has been prepared. */
export type PreparedEntry = TileEntry & { prepared: KeptTile };

/** A tile that can be drawn. */
export type ReadyEntry = PreparedEntry & { buffers: TileBuffers };

export const isPrepared = (entry: TileEntry): entry is PreparedEntry => entry.prepared !== undefined;

export const isReady = (entry: TileEntry): entry is ReadyEntry =>
  entry.prepared !== undefined && entry.buffers !== undefined;

/** A tile to be drawn in one copy of the world. */
export interface DrawnTile {
  readonly entry: ReadyEntry;
  readonly copy: number;
}

/** One image tile: loading, ready, or known to be empty or faulty. */
export interface ImageEntry {
  readonly tile: TileAddress;
  readonly key: number;
  state: 'loading' | 'ready' | 'empty' | 'failed';
  bitmap?: ImageBitmap;
  texture?: WebGLTexture;
  used: number;
  failedAt: number;
  readonly controller: AbortController;
}

/** An image tile that can be drawn. */
export type ReadyImage = ImageEntry & { texture: WebGLTexture };

/** An image tile to be drawn in one copy of the world. */
export interface DrawnImage {
  readonly entry: ReadyImage;
  readonly copy: number;
  readonly grid: SquareGrid;
}

/** Draws images; see `ImageBrush`. */
export interface ImageDrawing {
  /** @param patches the ground of each image's tile, in clip space */
  draw(layer: CompiledLayer, images: readonly DrawnImage[], patches: readonly Patch[], camera: Camera): number;
  remove(): void;
}

/** The drawable tiles of one data entry. */
export interface DrawnData {
  /** Grid that the tiles belong to. */
  readonly grid: SquareGrid;
  readonly tiles: readonly DrawnTile[];
  readonly images: readonly DrawnImage[];
  /** What draws the images; undefined where there are none. */
  readonly imageBrush: (new (device: Device) => ImageDrawing) | undefined;
}

/** The prepared layer of a tile that draws a layer of the sheet; −1 when the tile was prepared for another sheet, or has none. */
export function preparedIndex({ indices, prepared }: PreparedEntry, layer: CompiledLayer): number {
  let index = indices.get(layer);
  if (index === undefined) {
    index = prepared.layers.findIndex(({ layer: id, signature }) => id === layer.id && signature === layer.signature);
    indices.set(layer, index);
  }
  return index;
}
