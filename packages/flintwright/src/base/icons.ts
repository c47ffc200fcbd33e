import { builtInSprites, Fault, type SheetIcon } from '@flintwright/core';
import { isIconAddress, isPath, isSvg } from '@flintwright/core/internal';

/**
 * An icon of the application: SVG path data on a grid of 24 units, the text of an SVG document, the address of an SVG or a picture, an
 * `ImageBitmap`, or one of these with how it is colored.
 */
export type IconSource = string | ImageBitmap | TintedIcon;

/** An icon and whether it is tinted. */
export interface TintedIcon {
  /** Path data, the text of an SVG document, an address, or an `ImageBitmap`. */
  readonly source: string | ImageBitmap;
  /**
   * Whether the icon takes the color of its symbol; default true for path data and false for everything else, which keeps its own colors.
   */
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

/** Most icons that a map holds, those built in included. */
export const mostIcons = 256;

/** The icons of a map: built in, the application's and the sheet's, by their numbers, with pictures as they come. */
export class Icons {
  /** Drawings on a grid of 24 units, by name; a plain mark for those that are pictures. */
  readonly paths: Record<string, string> = { ...builtInSprites };
  readonly pictures = new Map<string, IconPicture>();
  /** Names that have been asked for, so that they are drawn. */
  readonly asked = new Set<string>();
  /** Those of the application and the sheet, by name. */
  private readonly own = new Map<string, IconSource>();
  private readonly numbers = new Map<string, number>();
  private readonly refused = new Set<string>();
  private readonly listeners: ((name: string) => void)[] = [];
  private readonly addresses = new Map<string, string>();

  /**
   * @param application the application's, which no sheet changes
   * @param base address that others are relative to
   * @param report told of icons that cannot be had
   */
  constructor(
    private readonly application: Readonly<Record<string, IconSource>>,
    private readonly base: string,
    private readonly report: (fault: Fault) => void,
  ) {
    for (const name of Object.keys(this.paths)) this.numbers.set(name, this.numbers.size);
    for (const [name, icon] of Object.entries(application)) this.enrol(name, icon);
  }

  /** Names in the order of their numbers; those that were taken out keep theirs. */
  get numbered(): readonly string[] {
    return [...this.numbers.keys()];
  }

  /** Names of those that there are. */
  get names(): readonly string[] {
    return this.numbered.filter((name) => this.number(name) !== undefined);
  }

  /** What those of the application and the sheet are drawn from. */
  get sources(): Readonly<Record<string, IconSource>> {
    return Object.fromEntries(this.own);
  }

  /** Whether an icon keeps its own colors, so that a symbol cannot color it. */
  keepsColors(name: string): boolean {
    const icon = this.own.get(name);
    if (icon === undefined) return false;
    const { source, tinted } = inFull(icon);
    return !(tinted ?? (typeof source === 'string' && isPath(source)));
  }

  /** Whether an icon is the application's. */
  private isFirm(name: string): boolean {
    return Object.hasOwn(this.application, name);
  }

  /** Why there is no room for an icon; undefined where there is. */
  fullFor(name: string): Fault | undefined {
    if (this.numbers.has(name) || this.numbers.size < mostIcons) return undefined;
    return new Fault(
      'icon.many',
      `there are too many icons to add "${name}"`,
      `A map holds ${mostIcons} icons over its life, those built in included. Make a new map for others.`,
    );
  }

  private enrol(name: string, icon: IconSource): boolean {
    const full = this.fullFor(name);
    if (full) {
      // Sheets are taken over again and again; what has no room is told once.
      if (!this.refused.has(name)) this.report(full);
      this.refused.add(name);
      return false;
    }
    if (!this.numbers.has(name)) this.numbers.set(name, this.numbers.size);
    this.own.set(name, icon);
    const { source } = inFull(icon);
    this.paths[name] = typeof source === 'string' && isPath(source) ? source : plainMark;
    this.pictures.delete(name);
    this.forgetAddresses(name);
    return true;
  }

  /** Draws those of the application. @returns when the pictures among them have come; undefined where there are none */
  begin(): Promise<void> | undefined {
    return this.fetch(Object.keys(this.application));
  }

  /**
   * Takes over the icons of a sheet, in place of those of the one before.
   *
   * @param icons by name
   * @returns when the pictures among them have come; undefined where there are none
   */
  adopt(icons: Readonly<Record<string, string | SheetIcon>>): Promise<void> | undefined {
    const fresh = Object.keys(icons).filter((name) => {
      const known = this.own.get(name);
      const same = known !== undefined && JSON.stringify(inFull(known)) === JSON.stringify(inFull(icons[name]));
      return !this.isFirm(name) && !same && this.enrol(name, icons[name]);
    });
    const gone = [...this.own.keys()].filter((name) => !this.isFirm(name) && !Object.hasOwn(icons, name));
    for (const name of gone) {
      this.own.delete(name);
      this.pictures.delete(name);
      this.forgetAddresses(name);
      this.paths[name] = builtInSprites[name] ?? plainMark;
    }
    const coming = this.fetch(fresh);
    for (const name of [...fresh, ...gone]) for (const came of this.listeners) came(name);
    return coming;
  }

  number(name: string): number | undefined {
    return this.own.has(name) || Object.hasOwn(builtInSprites, name) ? this.numbers.get(name) : undefined;
  }

  /** Tells of each picture that has come. */
  listen(came: (name: string) => void): void {
    this.listeners.push(came);
  }

  /** Fetches pictures. Those that cannot be had are told of, and a plain mark stands in their place. */
  private fetch(names: readonly string[]): Promise<void> | undefined {
    const pictures = names.flatMap((name) => {
      const { source } = inFull(this.own.get(name)!);
      return typeof source === 'string' && isPath(source) ? [] : [name];
    });
    if (!pictures.length) return undefined;
    return Promise.all(
      pictures.map(async (name) => {
        const icon = this.own.get(name)!;
        try {
          const picture = await this.drawn(name, icon);
          // Another may have come under this name meanwhile.
          if (this.own.get(name) !== icon) return;
          this.pictures.set(name, picture);
          for (const came of this.listeners) came(name);
        } catch (error) {
          if (!(error instanceof Fault)) throw error;
          this.report(error);
        }
      }),
    ).then(() => {});
  }

  /**
   * The picture of an icon that is one.
   *
   * @throws Fault `icon.form` or `icon.picture`
   */
  async drawn(name: string, icon: IconSource): Promise<IconPicture> {
    const { source, tinted = false } = inFull(icon);
    const image = typeof source === 'string' ? await this.picture(name, source) : source;
    return { image, width: image.width || 24, height: image.height || 24, tinted };
  }

  private picture(name: string, source: string): Promise<HTMLImageElement> {
    const isText = isSvg(source);
    if (!isText && !isIconAddress(source))
      throw new Fault(
        'icon.form',
        `the icon "${name}" is neither path data, nor SVG, nor an address: ${JSON.stringify(source.slice(0, 40))}`,
        'Write path data such as "M5 5H19V19H5Z", the text of an SVG document, or the address of a picture; a placeholder is drawn instead.',
      );
    const address = isText ? `data:image/svg+xml,${encodeURIComponent(source)}` : new URL(source, this.base).href;
    return new Promise((resolve, reject) => {
      const image = new Image();
      if (!isText) image.crossOrigin = 'anonymous';
      image.onload = () => resolve(image);
      image.onerror = () =>
        reject(
          new Fault(
            'icon.picture',
            `the icon "${name}" cannot be drawn`,
            isText
              ? 'Check the SVG: it needs xmlns="http://www.w3.org/2000/svg", a width and a height; a placeholder is drawn instead.'
              : 'Check the address, and that its host allows this page (CORS); a placeholder is drawn instead.',
            isText ? undefined : address.slice(0, 200),
          ),
        );
      image.src = address;
    });
  }

  /**
   * The picture of an icon as an address, for elements of the page; undefined for a drawing.
   *
   * @param name of the icon
   * @param color CSS color of one that is tinted; without it, such a picture has no address
   */
  addressOf(name: string, color?: string): string | undefined {
    const picture = this.pictures.get(name);
    if (!picture || (picture.tinted && !color)) return undefined;
    const key = picture.tinted ? `${name}\n${color}` : name;
    let address = this.addresses.get(key);
    if (address === undefined) {
      const canvas = document.createElement('canvas');
      Object.assign(canvas, { width: 64, height: 64 });
      const context = canvas.getContext('2d')!;
      paintInto(context, picture, 64);
      if (picture.tinted) {
        context.globalCompositeOperation = 'source-in';
        context.fillStyle = color!;
        context.fillRect(0, 0, 64, 64);
      }
      this.addresses.set(key, (address = canvas.toDataURL()));
    }
    return address;
  }

  /** Forgets the addresses of a picture that has gone. */
  private forgetAddresses(name: string): void {
    for (const key of this.addresses.keys()) if (key.split('\n', 1)[0] === name) this.addresses.delete(key);
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
