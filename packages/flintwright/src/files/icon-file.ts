import { Fault, type SheetIcon } from '@flintwright/core';
import { fetchPart } from '../base/fetch-part.js';

/** A picture that became an icon. */
export interface IconFile {
  /** Name after that of the file. */
  readonly name: string;
  readonly icon: SheetIcon;
  /** Size of the picture in its own pixels. */
  readonly size: readonly [width: number, height: number];
  /** What was taken out of it, such as `script`, each once. */
  readonly taken: readonly string[];
}

/** Most bytes of a picture for an icon. */
const mostBytes = 2 ** 20;
/** Icons are kept so large at most, in pixels: the largest that a symbol is drawn, twice over. */
const side = 128;

/**
 * Makes an icon of a picture: an SVG without anything that could run or load, or a small PNG of any other.
 *
 * @param file SVG, PNG, JPEG, WebP or GIF
 * @throws Fault `icon.large`, `icon.svg`, `icon.picture`
 */
export async function readIcon(file: File): Promise<IconFile> {
  const name =
    file.name
      .replace(/\.[^.]*$/, '')
      .replace(/[^\p{L}\p{N}_ -]+/gu, ' ')
      .trim()
      .slice(0, 48) || 'icon';
  if (file.size > mostBytes)
    throw new Fault(
      'icon.large',
      `${file.name} has ${(file.size / 1e6).toFixed(1)} MB, too much for an icon`,
      'Take a smaller picture: an icon of 128 by 128 pixels is large.',
      file.name,
    );
  const head = await file.slice(0, 4096).text();
  return /^\uFEFF?\s*</.test(head) ? fromSvg(name, file) : fromPixels(name, file);
}

async function fromSvg(name: string, file: File): Promise<IconFile> {
  const parsed = new DOMParser().parseFromString(await file.text(), 'image/svg+xml');
  const wrong = parsed.querySelector('parsererror');
  const root = parsed.documentElement;
  if (wrong || root.localName !== 'svg')
    throw new Fault(
      'icon.svg',
      wrong
        ? `${file.name} is not valid SVG: ${(wrong.textContent ?? '').replace(/\s+/g, ' ').slice(0, 120)}`
        : `${file.name} is <${root.localName}>, expected <svg>`,
      'Write the picture again as plain SVG.',
      file.name,
    );
  const { default: purify } = await fetchPart(() => import('dompurify'));
  const clean = purify.sanitize(root, {
    USE_PROFILES: { svg: true, svgFilters: true },
    ADD_TAGS: ['use'],
    RETURN_DOM_FRAGMENT: true,
  });
  const taken = new Set(
    purify.removed.map((one) =>
      'element' in one ? one.element.nodeName.toLowerCase() : (one.attribute?.name ?? 'attribute'),
    ),
  );
  const svg = clean.querySelector('svg');
  if (!svg)
    throw new Fault('icon.svg', `${file.name} contains nothing that can be drawn`, 'Check the picture.', file.name);
  for (const element of [svg, ...svg.querySelectorAll('*')])
    for (const { name: key, value } of [...element.attributes])
      if (
        /(^|:)href$/.test(key) ? !/^(#|data:image\/(png|jpeg|webp);)/.test(value) : /url\(\s*['"]?(?!#)/i.test(value)
      ) {
        element.removeAttribute(key);
        taken.add(key);
      }
  for (const css of svg.querySelectorAll('style'))
    if (/@import|url\(\s*['"]?(?!#)/i.test(css.textContent)) {
      css.remove();
      taken.add('style');
    }
  const size = sizeOf(svg, file.name);
  svg.setAttribute('width', String(size[0]));
  svg.setAttribute('height', String(size[1]));
  const source = new XMLSerializer().serializeToString(svg);
  // What the cleaning itself put round it, and what says nothing.
  for (const none of ['#comment', 'body', 'html']) taken.delete(none);
  return { name, icon: { source }, size, taken: [...taken] };
}

/** Width and height of a picture: its own, or those of its view box. @throws Fault `icon.svg` */
function sizeOf(svg: SVGSVGElement, file: string): [number, number] {
  const own = ['width', 'height'].map((key) => {
    const text = svg.getAttribute(key) ?? '';
    return /%$/.test(text) ? NaN : parseFloat(text);
  });
  const box = (svg.getAttribute('viewBox') ?? '')
    .trim()
    .split(/[\s,]+/)
    .map(Number);
  const [width, height] = own.every((v) => v > 0) ? own : [box[2], box[3]];
  if (width > 0 && height > 0 && width < 1e5 && height < 1e5) return [width, height];
  throw new Fault('icon.svg', `${file} has no size`, 'Give it a viewBox, or a width and a height.', file);
}

async function fromPixels(name: string, file: File): Promise<IconFile> {
  let picture: ImageBitmap;
  try {
    picture = await createImageBitmap(file);
  } catch (error) {
    throw new Fault(
      'icon.picture',
      `${file.name} is not a picture that this browser can read`,
      'Save it as PNG or SVG.',
      file.name,
      error,
    );
  }
  const { width, height } = picture;
  const scale = Math.min(1, side / Math.max(width, height));
  const canvas = document.createElement('canvas');
  canvas.width = Math.max(1, Math.round(width * scale));
  canvas.height = Math.max(1, Math.round(height * scale));
  const context = canvas.getContext('2d')!;
  context.imageSmoothingQuality = 'high';
  context.drawImage(picture, 0, 0, canvas.width, canvas.height);
  picture.close();
  return { name, icon: { source: canvas.toDataURL('image/png') }, size: [width, height], taken: [] };
}
