import { Fault, type SheetData, type TileAddress } from '@flintwright/core';
import { fetchPart } from '../base/fetch-part.js';
import { ImageStore, type LoadImage } from './image-store.js';
import { readCredit } from './credit.js';
import { fetchBytes } from './request.js';
import { addressOf, checkPlaceholders, levelsOf, wholeAddress, type Numbering } from './template.js';
import type { LoadTools } from './tools.js';

/** Where the pictures of an entry come from, and at which levels they are. */
interface ImageSource {
  readonly zooms: readonly [number, number];
  readonly load: LoadImage;
}

interface Options {
  readonly name: string;
  readonly data: SheetData;
  readonly images: string;
  readonly numbering: Numbering;
  readonly tools: LoadTools;
  readonly signal: AbortSignal;
}

/** Opens the pictures of an entry: tiles by their address, one picture over a place, or the maps of a service. */
export async function openImages(options: Options): Promise<ImageStore> {
  const { name, data, numbering, tools } = options;
  const source = await openImageSource(options);
  return new ImageStore({ name, numbering, credit: readCredit(data.credit, undefined), ...source }, tools);
}

async function openImageSource(options: Options): Promise<ImageSource> {
  const { data } = options;
  if (data.wms) return openService(options);
  if (data.bounds ?? data.corners) return openPicture(options);
  return openTiles(options);
}

async function decode(bytes: Uint8Array): Promise<ImageBitmap> {
  const options: ImageBitmapOptions = { premultiplyAlpha: 'premultiply' };
  const start = new TextDecoder().decode(bytes.subarray(0, 1024));
  if (/^\uFEFF?\s*</.test(start)) return createImageBitmap(await drawnSvg(bytes), options);
  return createImageBitmap(new Blob([bytes as Uint8Array<ArrayBuffer>]), options);
}

/** Pixels of the longer side of an SVG that is laid over a place. */
const svgSide = 2048;

/** An SVG document drawn on a canvas: browsers make pictures of it only by way of an image element. */
async function drawnSvg(bytes: Uint8Array): Promise<HTMLCanvasElement> {
  // A data address, because policies that allow pictures of blobs are rare.
  let text = '';
  for (let k = 0; k < bytes.length; k += 8192) text += String.fromCharCode(...bytes.subarray(k, k + 8192));
  const image = new Image();
  image.src = `data:image/svg+xml;base64,${btoa(text)}`;
  await image.decode();
  const [width, height] = [image.naturalWidth || svgSide, image.naturalHeight || svgSide];
  const scale = svgSide / Math.max(width, height);
  const canvas = document.createElement('canvas');
  canvas.width = Math.max(1, Math.round(width * scale));
  canvas.height = Math.max(1, Math.round(height * scale));
  canvas.getContext('2d')!.drawImage(image, 0, 0, canvas.width, canvas.height);
  return canvas;
}

function openTiles({ name, data, images, numbering, tools }: Options): ImageSource {
  const address = wholeAddress(images, tools.base);
  const fault = checkPlaceholders(name, address, `$.data.${name}.images`);
  if (fault) tools.context.reportLater(fault);
  if (!['{z}', '{x}', '{y}'].every((part) => address.includes(part)))
    tools.context.reportLater(
      new Fault(
        'images.address',
        `the address of the images "${name}" lacks {z}, {x} or {y}`,
        'Write it as in pictures/{z}/{x}/{y}.png; for one picture, say where it lies by "bounds" or "corners".',
        `$.data.${name}.images`,
      ),
    );
  return {
    zooms: levelsOf(data.zooms ?? [0, 19], numbering, name),
    load: async (tile, signal, what) => {
      const url = addressOf(address, tile, numbering);
      const bytes = url === undefined ? undefined : await fetchBytes(url, { signal, what }, tools.hook, true);
      return bytes?.length ? decode(bytes) : undefined;
    },
  };
}

async function openPicture({ name, data, images, numbering, tools, signal }: Options): Promise<ImageSource> {
  const address = new URL(images, tools.base).href;
  const [{ PlacedPicture }, bytes] = await Promise.all([
    fetchPart(() => import('./picture.js')),
    fetchBytes(address, { signal, what: `the picture "${name}"` }, tools.hook),
  ]);
  const bitmap = await decode(bytes!);
  const { bounds, corners, crs } = data;
  const picture = new PlacedPicture(bitmap, { bounds, corners: corners }, crs);
  bitmap.close();
  return {
    zooms: levelsOf(data.zooms ?? [0, picture.finest], numbering, name),
    load: async (tile) => {
      const pixels = picture.tile(tile);
      return pixels && createImageBitmap(pixels, { premultiplyAlpha: 'premultiply' });
    },
  };
}

async function openService({ name, data, images, numbering, tools }: Options): Promise<ImageSource> {
  const { boxIn, getMapAddress, PlacedPicture } = await fetchPart(() => import('./picture.js'));
  const base = new URL(images, tools.base).href;
  const wms = data.wms!;
  const { crs = 'EPSG:3857' } = wms;
  // Told at once, not tile by tile.
  getMapAddress(base, wms, [0, 0, 1, 1]);
  const fetchMap = async (
    box: readonly [number, number, number, number],
    signal: AbortSignal,
    what: string,
    w?: number,
    h?: number,
  ) => {
    const bytes = await fetchBytes(getMapAddress(base, wms, box, w, h), { signal, what }, tools.hook, true);
    if (bytes && (bytes[0] === 0x3c || (bytes[0] === 0xef && bytes[3] === 0x3c))) throw exceptionOf(bytes, what);
    return bytes?.length ? decode(bytes) : undefined;
  };
  return {
    zooms: levelsOf(data.zooms ?? [0, 20], numbering, name),
    load: async (tile: TileAddress, signal, what) => {
      const box = boxIn(crs, tile);
      if (!box.every(Number.isFinite)) return undefined;
      if (crs === 'EPSG:3857') return fetchMap(box, signal, what);
      // A map in another system is asked for somewhat finer, and laid into the tile.
      const share = (box[3] - box[1]) / (box[2] - box[0]);
      const [w, h] =
        share > 1 ? [Math.max(16, Math.round(384 / share)), 384] : [384, Math.max(16, Math.round(384 * share))];
      const bitmap = await fetchMap(box, signal, what, w, h);
      if (!bitmap) return undefined;
      const pixels = new PlacedPicture(bitmap, { bounds: box }, crs).tile(tile);
      bitmap.close();
      return pixels && createImageBitmap(pixels, { premultiplyAlpha: 'premultiply' });
    },
  };
}

/** The exception that a service answers with in place of a map (OGC 06-042, 6.11). */
function exceptionOf(bytes: Uint8Array, what: string): Fault {
  const text = new TextDecoder().decode(bytes.subarray(0, 4000));
  const said = /<ServiceException(?:\s[^>]*)?>([^]*?)<\/ServiceException>/
    .exec(text)?.[1]
    ?.replace(/<!\[CDATA\[|\]\]>/g, '')
    .trim();
  const code = /<ServiceException\s[^>]*code="([^"]*)"/.exec(text)?.[1];
  return new Fault(
    'wms.exception',
    `the service refused ${what}: ${[code, said].filter(Boolean).join(', ').slice(0, 300) || 'no reason given'}`,
    'Check the names of layers and styles, the coordinate system and the format against the capabilities of the service.',
  );
}
