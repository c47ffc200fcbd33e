import { builtInSprites, Fault, type SheetIcon } from '@flintwright/core';
import { iconSource, isPath } from '@flintwright/core/internal';
import type { Icons, IconSource } from '../base/icons.js';
import type { LayersHost } from './layers.js';

/** The icons of a map, for change at run time. What is added becomes part of the sheet. */
export class MapIcons {
  constructor(
    private readonly host: LayersHost,
    private readonly icons: Icons,
  ) {}

  /** Names of all icons and shapes: built in, the application's, and the sheet's. */
  get names(): readonly string[] {
    return this.icons.names;
  }

  /** Names of those that are not built in. */
  get own(): readonly string[] {
    return this.names.filter((name) => !Object.hasOwn(builtInSprites, name));
  }

  /** What each icon that is not built in is drawn from, by name: the application's as it was given to `createMap`, and the sheet's. */
  get sources(): Readonly<Record<string, IconSource>> {
    return this.icons.sources;
  }

  /**
   * Adds an icon to the sheet, or puts another in the place of one of the same name.
   *
   * @param name that layers call it by
   * @param icon SVG path data on a grid of 24 units, the text of an SVG document, an address, or one of these with how it is colored
   * @returns when it can be drawn
   * @throws Fault `icon.name`, `icon.many`, `icon.form`, `icon.picture`; the sheet then stays as it was
   */
  async add(name: string, icon: string | SheetIcon): Promise<void> {
    if (typeof name !== 'string' || !/^[\p{L}\p{N}_][\p{L}\p{N}_ -]{0,63}$/u.test(name))
      throw new Fault(
        'icon.name',
        `"${String(name)}" cannot be the name of an icon`,
        'Use up to 64 letters, digits, spaces, dashes and underscores.',
      );
    const full = this.icons.fullFor(name);
    if (full) throw full;
    if (!isPath(iconSource(icon))) await this.icons.drawn(name, icon);
    this.host.change((parts) => ({ ...parts, icons: { ...parts.icons, [name]: icon } }));
  }

  /**
   * Takes an icon out that was added at run time; what names it shows a plain mark then.
   *
   * @param name of the icon
   */
  remove(name: string): void {
    this.host.change((parts) => {
      const { [name]: _, ...icons } = parts.icons;
      return { ...parts, icons };
    });
  }

  /** The picture of an icon as an address, and its drawing on a grid of 24 units. */
  look(name: string): { readonly address?: string; readonly path: string } {
    const address = this.icons.addressOf(name);
    return { ...(address === undefined ? {} : { address }), path: this.icons.paths[name] ?? '' };
  }
}
