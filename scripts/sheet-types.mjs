// Writes the descriptions of the sheet's schema into its types, so that an editor shows them: node scripts/sheet-types.mjs [--check]
import { readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { format } from 'oxfmt';
import ts from 'typescript';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const files = ['types', 'symbol-types'].map((name) => `packages/core/src/sheet/${name}.ts`);
const { ignorePatterns: _, ...style } = JSON.parse(readFileSync(join(root, '.oxfmtrc.json'), 'utf8'));
const schema = JSON.parse(readFileSync(join(root, 'packages/core/src/sheet/sheet.schema.json'), 'utf8'));
const { $defs } = schema;
const classes = $defs.scale.properties.classes;

/** Where the schema speaks of each interface. */
const places = {
  Sheet: schema,
  SheetTiles: $defs.data,
  SheetFeatures: $defs.data,
  SheetImages: $defs.data,
  SheetWms: $defs.data.properties.wms,
  SheetCluster: $defs.data.properties.cluster,
  SheetJoin: $defs.data.properties.join,
  SheetSurface: $defs.surface,
  SheetView: schema.properties.view,
  SheetScaleBase: $defs.scale,
  SheetRampScale: $defs.scale,
  SheetClassesScale: $defs.scale,
  SheetCategoriesScale: $defs.scale,
  SheetClasses: classes,
  SheetFill: $defs.fill.then,
  SheetHatch: $defs.fill.then.properties.hatch,
  SheetPattern: $defs.fill.then.properties.pattern,
  SheetStroke: $defs.strokeObject,
  SheetHalo: $defs.halo,
  SheetMark: $defs.mark,
  SheetLabel: $defs.labelPart,
  SheetImage: $defs.image,
  SheetHeat: $defs.heat,
  SheetExtrusion: $defs.extrusionPart,
  SheetSymbols: $defs.layer,
  SheetRule: $defs.rule,
  SheetLayer: $defs.layer,
  SheetClusters: $defs.clusters,
  SheetPopup: $defs.popup,
  SheetPopupLine: $defs.popupLine,
  SheetCredit: $defs.credit,
};

/** The description of a property in the schema, its own or that of its target. */
function descriptionOf(place, name) {
  const property = place?.properties?.[name];
  if (!property) return undefined;
  const pointed = property.$ref
    ?.split('/')
    .slice(1)
    .reduce((node, key) => node?.[key], schema);
  return property.description ?? pointed?.description;
}

const sentence = (text) => {
  const upper = /^[a-z]/.test(text) ? text[0].toUpperCase() + text.slice(1) : text;
  return /[.?!)]$/.test(upper) ? upper : `${upper}.`;
};

for (const file of files) {
  const text = readFileSync(join(root, file), 'utf8');
  const source = ts.createSourceFile(file, text, ts.ScriptTarget.Latest, true);
  const edits = [];
  const silent = [];
  for (const statement of source.statements) {
    if (!ts.isInterfaceDeclaration(statement) || !(statement.name.text in places)) continue;
    for (const member of statement.members) {
      const name = member.name.getText(source).replace(/['"]/g, '');
      const description = descriptionOf(places[statement.name.text], name);
      if (description === undefined) {
        if (name !== '$schema') silent.push(`${statement.name.text}.${name}`);
        continue;
      }
      edits.push([member.getFullStart(), member.getStart(source), `\n  /** ${sentence(description)} */\n  `]);
    }
  }
  if (silent.length) throw new Error(`the schema says nothing of ${silent.join(', ')}`);
  let out = text;
  for (const [from, to, comment] of edits.reverse()) out = out.slice(0, from) + comment + out.slice(to);
  out = (await format(file, out, style)).code;
  if (process.argv.includes('--check')) {
    if (out !== text) {
      console.error(`${file} does not say what the schema says: run node scripts/sheet-types.mjs`);
      process.exit(1);
    }
  } else writeFileSync(join(root, file), out);
}
