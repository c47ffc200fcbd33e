import { builtInSprites, Fault, type SheetIcon } from '@flintwright/core';
import { iconSource, isPath } from '@flintwright/core/internal';
import type { Icons, IconSource } from '../base/icons.js';
import type { LayersHost } from './layers.js';

/** Icons of a map, for changes at run time. Added icons become part of the sheet. */
export class MapIcons {
  constructor(
    private readonly host: LayersHost,
    private readonly icons: Icons,
  ) {}

  /** Names of all icons and shapes: built in, of the application, and of the sheet. */
  get names(): readonly string[] {
    return this.icons.names;
  }

  /** Names of the icons that are not built in. */
  get own(): readonly string[] {
    return this.names.filter((name) => !Object.hasOwn(builtInSprites, name));
  }

  /** Source of each icon that is not built in, by name: as given to `createMap`, or from the sheet. */
  get sources(): Readonly<Record<string, IconSource>> {
    return this.icons.sources;
  }

  /**
   * Adds an icon to the sheet, or replaces the one of the same name.
   *
   * @param name name of the icon, as layers reference it
   * @param icon SVG path data on a grid of 24 units, the text of an SVG document, a URL, or one of these with whether it is tinted
   * @returns resolves when the icon can be drawn
   * @throws Fault `icon.name`, `icon.many`, `icon.form`, `icon.picture`; the sheet is then unchanged
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

  /** Removes an icon that was added at run time. Symbols that reference it show a plain mark. @param name name of the icon */
  remove(name: string): void {
    this.host.change((parts) => {
      const { [name]: _, ...icons } = parts.icons;
      return { ...parts, icons };
    });
  }

  /** Returns the picture of an icon as a URL, and its outline on a grid of 24 units. */
  look(name: string): { readonly address?: string; readonly path: string } {
    const address = this.icons.addressOf(name);
    return { ...(address === undefined ? {} : { address }), path: this.icons.paths[name] ?? '' };
  }
}
