import { builtInSprites, Fault } from '@flintwright/core';

/**
 * An icon of the application: SVG path data on a grid of 24 units, the text of an SVG document, the address of an SVG or a picture, an
 * `ImageBitmap`, or one of these with how it is coloured.
 */
export type IconSource = string | ImageBitmap | TintedIcon;

/** An icon with how it is coloured. */
export interface TintedIcon {
  /** Path data, the text of an SVG document, an address, or an `ImageBitmap`. */
  readonly source: string | ImageBitmap;
  /** Whether it takes the colour of its symbol; default true for path data, and false for all else, which keep their own colours. */
  readonly tinted?: boolean;
}

/** A picture that stands for an icon. */
export interface IconPicture {
  readonly image: CanvasImageSource;
  readonly width: number;
  readonly height: number;
  readonly tinted: boolean;
}

/** Drawn where an icon is not there yet, or cannot be had. */
export const plainMark = 'M5 5H19V19H5ZM7.4 7.4V16.6H16.6V7.4Z';

/** Whether a text is path data (SVG 2, section 9.3): it begins with a move, and holds nothing but commands and numbers. */
export const isPath = (text: string): boolean =>
  /^\s*[Mm][\s,]*[-+.\d]/.test(text) && !/[^MmZzLlHhVvCcSsQqTtAaEe\d.,\s+-]/.test(text);

const isAddress = (text: string): boolean => /^(data:|blob:|https?:)|[/.]/.test(text) && !/\s/.test(text);

/** The icons of a map: built in and the application's own, by their numbers, with pictures as they come. */
export class Icons {
  /** Drawings on a grid of 24 units, by name; a plain mark for those that are pictures. */
  readonly paths: Readonly<Record<string, string>>;
  /** Names in the order of their numbers. */
  readonly names: readonly string[];
  readonly pictures = new Map<string, IconPicture>();
  private readonly numbers: ReadonlyMap<string, number>;
  private readonly listeners: ((name: string) => void)[] = [];
  private readonly addresses = new Map<string, string>();

  /**
   * @param own the application's
   * @param base address that others are relative to
   * @param report told of icons that cannot be had
   */
  constructor(
    private readonly own: Readonly<Record<string, IconSource>>,
    private readonly base: string,
    private readonly report: (fault: Fault) => void,
  ) {
    const paths: Record<string, string> = { ...builtInSprites };
    for (const [name, icon] of Object.entries(own)) {
      const { source } = inFull(icon);
      paths[name] = typeof source === 'string' && isPath(source) ? source : plainMark;
    }
    this.paths = paths;
    this.names = Object.keys(paths);
    this.numbers = new Map(this.names.map((name, i) => [name, i]));
  }

  /** Whether any is a picture, which has to be fetched or drawn first. */
  get hasPictures(): boolean {
    return Object.values(this.own).some((icon) => {
      const { source } = inFull(icon);
      return typeof source !== 'string' || !isPath(source);
    });
  }

  number(name: string): number | undefined {
    return this.numbers.get(name);
  }

  /** Tells of each picture that has come. */
  listen(came: (name: string) => void): void {
    this.listeners.push(came);
  }

  /** Fetches the pictures. Those that cannot be had are told of, and a plain mark stands in their place. */
  async load(): Promise<void> {
    const pictures = Object.entries(this.own).flatMap(([name, icon]) => {
      const { source, tinted } = inFull(icon);
      return typeof source === 'string' && isPath(source) ? [] : [{ name, source, tinted: tinted ?? false }];
    });
    await Promise.all(
      pictures.map(async ({ name, source, tinted }) => {
        try {
          const image = typeof source === 'string' ? await this.picture(name, source) : source;
          const { width, height } = image;
          this.pictures.set(name, { image, width: width || 24, height: height || 24, tinted });
          for (const came of this.listeners) came(name);
        } catch (error) {
          if (!(error instanceof Fault)) throw error;
          this.report(error);
        }
      }),
    );
  }

  /** @throws Fault `icon.form` or `icon.picture` */
  private picture(name: string, source: string): Promise<HTMLImageElement> {
    const isSvg = source.trimStart().startsWith('<');
    if (!isSvg && !isAddress(source))
      throw new Fault(
        'icon.form',
        `the icon "${name}" is neither path data, nor SVG, nor an address: ${JSON.stringify(source.slice(0, 40))}`,
        'Write path data such as "M5 5H19V19H5Z", the text of an SVG document, or the address of a picture; a plain mark stands in its place.',
      );
    const address = isSvg ? `data:image/svg+xml,${encodeURIComponent(source)}` : new URL(source, this.base).href;
    return new Promise((resolve, reject) => {
      const image = new Image();
      if (!isSvg) image.crossOrigin = 'anonymous';
      image.onload = () => resolve(image);
      image.onerror = () =>
        reject(
          new Fault(
            'icon.picture',
            `the icon "${name}" cannot be drawn`,
            isSvg
              ? 'Check the SVG: it needs xmlns="http://www.w3.org/2000/svg", a width and a height; a plain mark stands in its place.'
              : 'Check the address, and that its host allows this page (CORS); a plain mark stands in its place.',
            isSvg ? undefined : address.slice(0, 200),
          ),
        );
      image.src = address;
    });
  }

  /** The picture of an icon as an address, for elements of the page; undefined for a drawing. */
  addressOf(name: string): string | undefined {
    const picture = this.pictures.get(name);
    if (!picture || picture.tinted) return undefined;
    let address = this.addresses.get(name);
    if (address === undefined) {
      const canvas = document.createElement('canvas');
      Object.assign(canvas, { width: 64, height: 64 });
      paintInto(canvas.getContext('2d')!, picture, 64);
      this.addresses.set(name, (address = canvas.toDataURL()));
    }
    return address;
  }
}

const inFull = (icon: IconSource): TintedIcon =>
  typeof icon === 'object' && 'source' in icon ? icon : { source: icon };

/** Paints a picture as large as a square allows, in its middle. */
export function paintInto(
  context: CanvasRenderingContext2D,
  { image, width, height }: IconPicture,
  side: number,
): void {
  const scale = side / Math.max(width, height);
  const [w, h] = [width * scale, height * scale];
  context.imageSmoothingQuality = 'high';
  context.drawImage(image, (side - w) / 2, (side - h) / 2, w, h);
}
