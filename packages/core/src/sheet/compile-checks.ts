import { Fault } from '../base/fault.js';
import { nearestSpelling } from '../base/spelling.js';
import { formlessIcons } from './icons.js';
import type { CompiledStroke, SymbolTools } from './symbols.js';
import type { Sheet, SheetData, SheetLayer, SheetRule } from './types.js';
import { compileExpression, unsupportedColor, type colorKind, type CompiledValue, type Report } from './value-kinds.js';

type ColorKind = ReturnType<typeof colorKind>;

/** Colors of the palette by day and by night: each is one, and the dark ones have names of the palette. */
function palettes({ palette = {}, dark = {} }: Sheet, colors: ColorKind, report: Report): void {
  for (const [key, list] of Object.entries({ palette, dark }))
    for (const [name, color] of Object.entries(list)) {
      const at = `$.${key}.${name}`;
      if (color.startsWith('@') || !colors.read(color))
        report(
          colors.isUnsupported?.(color)
            ? unsupportedColor(color, at)
            : new Fault(
                'sheet.colour',
                `${JSON.stringify(color)} is not a CSS color`,
                'Write a color such as "#d98a2b".',
                at,
              ),
        );
      if (list === palette || Object.hasOwn(palette, name)) continue;
      const near = nearestSpelling(name, Object.keys(palette));
      report(
        new Fault(
          'sheet.dark',
          `the palette has no color "${name}" to override in "dark"`,
          near ? `Did you mean "${near}"?` : 'Name a color of the palette.',
          at,
        ),
      );
    }
}

/** Icons of the sheet: each is one of the forms that are drawn. */
function icons({ icons = {} }: Sheet, report: Report): void {
  for (const name of formlessIcons(icons))
    report(
      new Fault(
        'icon.form',
        `the icon "${name}" is neither path data, nor SVG, nor an address`,
        'Write path data such as "M5 5H19V19H5Z", the text of an SVG document, or the address of a picture.',
        `$.icons.${name}`,
      ),
    );
}

/** Reads the expressions of a popup, so that a fault in them is told with the others. */
function popup({ popup }: SheetLayer, path: string, tools: SymbolTools): void {
  if (!popup) return;
  const read = (text: string | undefined, at: string) => {
    if (text !== undefined) compileExpression(text, `${path}.popup.${at}`, tools);
  };
  for (const key of ['title', 'text', 'image'] as const) read(popup[key], key);
  for (const [name, line] of Object.entries(popup.lines ?? {})) {
    const at = `lines.${name}`;
    if (typeof line === 'string') read(line, at);
    else {
      read(line.is, `${at}.is`);
      read(line.href, `${at}.href`);
    }
  }
}

/** Names of layers: each only once. */
function names({ layers }: Sheet, report: Report): void {
  const seen = new Set<string>();
  layers.forEach(({ id }, index) => {
    if (seen.has(id))
      report(
        new Fault(
          'sheet.layer.twice',
          `two layers are called "${id}"`,
          'Give each layer a unique id.',
          `$.layers[${index}].id`,
        ),
      );
    seen.add(id);
  });
}

/** Checks that a layer fits the data it draws. */
function data(
  entry: SheetData | undefined,
  name: string,
  layer: SheetLayer,
  path: string,
  sheet: Sheet,
  report: Report,
): void {
  const known = Object.keys(sheet.data ?? {});
  if (!entry) {
    const near = nearestSpelling(name, known);
    report(
      new Fault(
        'sheet.data',
        `there is no data called "${name}"`,
        near ? `Did you mean "${near}"?` : `The sheet's data: ${known.join(', ') || 'none'}.`,
        `${path}.of`,
      ),
    );
    return;
  }
  const { zooms } = entry;
  if (zooms && (!zooms.every((level) => Number.isInteger(level) && level >= 0 && level <= 30) || zooms[0] > zooms[1]))
    report(
      new Fault(
        'sheet.levels',
        `the levels of "${name}" are ${zooms.join(' to ')}`,
        'Levels are two whole numbers from 0 to 30, such as [0, 14], the first not above the last.',
        `$.data.${name}.zooms`,
      ),
    );
  if (entry.tiles !== undefined && !layer.of.includes('/'))
    report(
      new Fault(
        'sheet.of',
        `"${name}" holds tiles, which have layers, and "of" names none`,
        `Write "${name}/…" with the name of a layer; flintwright inspect lists them.`,
        `${path}.of`,
      ),
    );
  if (entry.cluster && entry.features === undefined)
    report(
      new Fault(
        'sheet.cluster',
        `"${name}" cannot be clustered, because it contains no features`,
        'Clustering needs all points at once; give the data as "features".',
        `$.data.${name}.cluster`,
      ),
    );
  if ((entry.images !== undefined) !== (layer.image !== undefined))
    report(
      new Fault(
        'sheet.image',
        entry.images === undefined
          ? `layer "${layer.id}" has an image, but "${name}" holds no pictures`
          : `"${name}" holds pictures, and layer "${layer.id}" has no image`,
        entry.images === undefined
          ? 'Give the data "images", or draw its features with fill, stroke, mark or label.'
          : 'Write "image": {} in the layer.',
        path,
      ),
    );
}

/** Class limits that are still to be found: only where all features are there. */
function classes(entry: SheetData | undefined, path: string, report: Report): void {
  if (entry?.tiles !== undefined)
    report(
      new Fault(
        'sheet.classes.tiles',
        `class limits cannot be found in tiles, which never hold all features at once`,
        'Give the limits as "breaks"; flintwright inspect shows the range of each attribute.',
        `${path}.classes`,
      ),
    );
}

function zoom(range: readonly [number, number] | undefined, path: string, report: Report): void {
  if (range && !(range[0] < range[1]))
    report(
      new Fault(
        'sheet.zoom',
        `zooms from ${range[0]} to ${range[1]} are an empty range`,
        'Write [first, end] with first below end.',
        `${path}.zoom`,
      ),
    );
}

/** Whether a layer draws anything. */
function drawing({ id }: SheetLayer, nothing: boolean, path: string, report: Report): void {
  if (nothing)
    report(
      new Fault(
        'sheet.layer.empty',
        `layer "${id}" has no symbol`,
        'Give it a fill, a stroke, a mark, a label, a heat or an extrusion.',
        path,
      ),
    );
}

/** Gradients along lines, of a layer that has some. */
function gradients(
  entry: SheetData | undefined,
  strokes: readonly CompiledStroke[],
  path: string,
  report: Report,
): void {
  if (entry?.tiles !== undefined)
    report(
      new Fault(
        'sheet.gradient.tiles',
        'a gradient runs along whole lines, but tiles contain only parts of them',
        'Give the lines as "features".',
        path,
      ),
    );
  if (strokes.some(({ dash, marks }) => dash.length || marks))
    report(
      new Fault(
        'sheet.stroke',
        'a layer has a gradient along its lines beside dashes or marks',
        'Use two layers.',
        path,
      ),
    );
}

/** A layer of a network: it has strokes, and nothing that lies below, between or above those of its neighbors. */
function network(
  { id, network, image, heat }: SheetLayer,
  draws: boolean,
  strokes: readonly CompiledStroke[],
  path: string,
  report: Report,
): void {
  if (draws || image || heat || strokes.some(({ gradient, marks }) => gradient ?? marks))
    report(
      new Fault(
        'sheet.network',
        `layer "${id}" of the network "${network}" draws more than plain strokes and labels, or no strokes`,
        'Draw fills, marks, gradients along lines, heat, extrusions and pictures in separate layers.',
        `${path}.network`,
      ),
    );
}

function clusters(sheet: Sheet, id: string, of: string, path: string, report: Report): void {
  if (!sheet.data?.[of]?.cluster)
    report(
      new Fault(
        'sheet.clusters',
        `layer "${id}" styles clusters, but the points of "${of}" are not clustered`,
        `Give the data its "cluster": {}.`,
        `${path}.clusters`,
      ),
    );
}

function rule(
  { rules }: SheetLayer,
  { where, otherwise }: SheetRule,
  index: number,
  path: string,
  report: Report,
): void {
  if (where !== undefined && otherwise)
    report(new Fault('sheet.rule', 'a rule has both where and otherwise', 'Keep one of them.', path));
  if (otherwise && rules && index < rules.length - 1)
    report(new Fault('sheet.rule', 'rules after an "otherwise" are never reached', 'Put "otherwise" last.', path));
}

/** Whether there is a scheme of that name. */
function scheme(name: string, known: readonly string[], path: string, report: Report): boolean {
  if (known.includes(name)) return true;
  const near = nearestSpelling(name, known);
  report(
    new Fault(
      'sheet.scheme',
      `there is no scheme "${name}"`,
      near ? `Did you mean "${near}"?` : `Schemes: ${known.join(', ')}.`,
      path,
    ),
  );
  return false;
}

function background({ properties }: CompiledValue<unknown>, report: Report): void {
  if (properties.length)
    report(
      new Fault(
        'sheet.background',
        'the background cannot use attributes',
        'Use a color, or a scale by zoom.',
        '$.background',
      ),
    );
}

/** Looks for what is of the right form in a sheet and yet wrong, and reports it. */
export const sheetChecks = {
  whole(sheet: Sheet, colors: ColorKind, report: Report): void {
    palettes(sheet, colors, report);
    icons(sheet, report);
    names(sheet, report);
  },
  data,
  classes,
  zoom,
  popup,
  drawing,
  gradients,
  network,
  clusters,
  rule,
  scheme,
  background,
};

export type SheetChecks = typeof sheetChecks;
