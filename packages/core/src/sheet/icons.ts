/** An icon of a sheet, and whether it is tinted. */
export interface SheetIcon {
  /** SVG path data on a grid of 24 units, the text of an SVG document, or the URL of an SVG or a picture. */
  readonly source: string;
  /**
   * Whether the icon takes the color of its symbol; default true for path data and false for everything else, which keeps its own colors.
   */
  readonly tinted?: boolean;
}

/** Whether a text is path data (SVG 2, section 9.3): it begins with a move, and holds nothing but commands and numbers. */
export const isPath = (text: string): boolean =>
  /^\s*[Mm][\s,]*[-+.\d]/.test(text) && !/[^MmZzLlHhVvCcSsQqTtAaEe\d.,\s+-]/.test(text);

/** Whether a text is that of an SVG document. */
export const isSvg = (text: string): boolean => text.trimStart().startsWith('<');

/** Whether a text is the address of an SVG or a picture. */
export const isIconAddress = (text: string): boolean => /^(data:|blob:|https?:)|[/.]/.test(text) && !/\s/.test(text);

/** What an icon is drawn from. */
export const iconSource = (icon: string | SheetIcon): string => (typeof icon === 'string' ? icon : icon.source);

/** Icons of a sheet that are neither path data, nor SVG, nor an address. */
export const formlessIcons = (icons: Readonly<Record<string, string | SheetIcon>>): string[] =>
  Object.keys(icons).filter((name) => {
    const source = iconSource(icons[name]);
    return !isPath(source) && !isSvg(source) && !isIconAddress(source);
  });
