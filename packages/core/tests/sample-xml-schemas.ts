// Validates XML against published schemas: against those of OGC as the package `ogc-schemas` describes them, and that of GPX 1.1, written here
// in the same form from gpx.xsd.
import { createRequire } from 'node:module';
import { SaxesParser } from 'saxes';

type Name = string | { readonly lp: string; readonly ns?: string };
type TypeRef = string | { readonly t: string; readonly ti?: TypeRef };

/** A property of a type, in the order of the schema. */
interface Property {
  readonly n: string;
  /** `e` an element (default), `er` and `ers` elements by reference, `es` a choice, `a` an attribute, `v` the text, `ae` and `aa` anything. */
  readonly t?: string;
  readonly en?: Name;
  readonly an?: Name;
  readonly ti?: TypeRef;
  /** Whether it may stand several times. */
  readonly col?: boolean;
  /** Whether text may stand between; default yes, for references. */
  readonly mx?: boolean;
  readonly rq?: boolean;
  readonly etis?: readonly { readonly en: Name; readonly ti?: TypeRef }[];
}

interface Type {
  readonly ln: string;
  readonly t?: string;
  readonly bti?: TypeRef;
  readonly ps?: readonly Property[];
  readonly vs?: readonly string[];
}

interface Schema {
  readonly n: string;
  /** Namespace of its elements, and of its attributes. */
  readonly dens?: string;
  readonly dans?: string;
  readonly tis?: readonly Type[];
  readonly eis?: readonly { readonly en: Name; readonly ti?: TypeRef; readonly sh?: Name }[];
}

interface Node {
  readonly uri: string;
  readonly name: string;
  readonly attributes: readonly { readonly uri: string; readonly name: string; readonly value: string }[];
  readonly children: Node[];
  text: string;
  readonly line: number;
}

const require = createRequire(import.meta.url);
const published = (name: string, of = 'ogc') =>
  (require(`${of}-schemas/lib/${name}.js`) as Record<string, Schema>)[name];

const decimal = /^[+-]?(\d+(\.\d*)?|\.\d+)$/;
const double = /^([+-]?(\d+(\.\d*)?|\.\d+)([eE][+-]?\d+)?|-?INF|NaN)$/;
const dateTime = /^-?\d{4,}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d+)?(Z|[+-]\d\d:\d\d)?$/;
const within = (low: number, high: number, openEnd: boolean) => (text: string) =>
  decimal.test(text) && Number(text) >= low && (openEnd ? Number(text) < high : Number(text) <= high);

/** Simple types of XML Schema, and those that gpx.xsd makes of them. */
const simple: Readonly<Record<string, (text: string) => boolean>> = {
  Double: (text) => double.test(text),
  Float: (text) => double.test(text),
  Decimal: (text) => decimal.test(text),
  Boolean: (text) => /^(true|false|0|1)$/.test(text),
  Integer: (text) => /^[+-]?\d+$/.test(text),
  Int: (text) => /^[+-]?\d+$/.test(text),
  NonNegativeInteger: (text) => /^\+?\d+$/.test(text),
  PositiveInteger: (text) => /^\+?0*[1-9]\d*$/.test(text),
  ID: (text) => /^[\p{L}_][\p{L}\p{N}\p{M}_.·-]*$/u.test(text),
  NCName: (text) => /^[\p{L}_][\p{L}\p{N}\p{M}_.·-]*$/u.test(text),
  DateTime: (text) => dateTime.test(text) && !Number.isNaN(Date.parse(text)),
  GYear: (text) => /^-?\d{4,}$/.test(text),
  AnyURI: (text) => !/\s/.test(text),
  gpxLatitude: within(-90, 90, false),
  gpxLongitude: within(-180, 180, true),
  gpxDegrees: within(0, 360, true),
  gpxStation: (text) => /^\d+$/.test(text) && Number(text) <= 1023,
  gpxFix: (text) => ['none', '2d', '3d', 'dgps', 'pps'].includes(text),
};

const gpxPoint: readonly Property[] = [
  { n: 'ele', ti: 'Decimal' },
  { n: 'time', ti: 'DateTime' },
  { n: 'magvar', ti: 'gpxDegrees' },
  { n: 'geoidheight', ti: 'Decimal' },
  { n: 'name' },
  { n: 'cmt' },
  { n: 'desc' },
  { n: 'src' },
  { n: 'link', col: true, ti: '.linkType' },
  { n: 'sym' },
  { n: 'type' },
  { n: 'fix', ti: 'gpxFix' },
  { n: 'sat', ti: 'NonNegativeInteger' },
  { n: 'hdop', ti: 'Decimal' },
  { n: 'vdop', ti: 'Decimal' },
  { n: 'pdop', ti: 'Decimal' },
  { n: 'ageofdgpsdata', ti: 'Decimal' },
  { n: 'dgpsid', ti: 'gpxStation' },
  { n: 'extensions', ti: '.extensionsType' },
  { n: 'lat', t: 'a', an: 'lat', ti: 'gpxLatitude', rq: true },
  { n: 'lon', t: 'a', an: 'lon', ti: 'gpxLongitude', rq: true },
];
const gpxLine = (points: Property): readonly Property[] => [
  { n: 'name' },
  { n: 'cmt' },
  { n: 'desc' },
  { n: 'src' },
  { n: 'link', col: true, ti: '.linkType' },
  { n: 'number', ti: 'NonNegativeInteger' },
  { n: 'type' },
  { n: 'extensions', ti: '.extensionsType' },
  points,
];
const gpxSchema: Schema = {
  n: 'GPX',
  dens: 'http://www.topografix.com/GPX/1/1',
  eis: [{ en: 'gpx', ti: '.gpxType' }],
  tis: [
    {
      ln: 'gpxType',
      ps: [
        { n: 'metadata', ti: '.metadataType' },
        { n: 'wpt', col: true, ti: '.wptType' },
        { n: 'rte', col: true, ti: '.rteType' },
        { n: 'trk', col: true, ti: '.trkType' },
        { n: 'extensions', ti: '.extensionsType' },
        { n: 'version', t: 'a', an: 'version', rq: true },
        { n: 'creator', t: 'a', an: 'creator', rq: true },
      ],
    },
    {
      ln: 'metadataType',
      ps: [
        { n: 'name' },
        { n: 'desc' },
        { n: 'author', ti: '.personType' },
        { n: 'copyright', ti: '.copyrightType' },
        { n: 'link', col: true, ti: '.linkType' },
        { n: 'time', ti: 'DateTime' },
        { n: 'keywords' },
        { n: 'bounds' },
        { n: 'extensions', ti: '.extensionsType' },
      ],
    },
    { ln: 'wptType', ps: gpxPoint },
    { ln: 'rteType', ps: gpxLine({ n: 'rtept', col: true, ti: '.wptType' }) },
    { ln: 'trkType', ps: gpxLine({ n: 'trkseg', col: true, ti: '.trksegType' }) },
    { ln: 'trksegType', ps: [{ n: 'trkpt', col: true, ti: '.wptType' }] },
    { ln: 'extensionsType', ps: [{ n: 'any', t: 'ae', col: true, mx: false }] },
    {
      ln: 'linkType',
      ps: [{ n: 'text' }, { n: 'type' }, { n: 'href', t: 'a', an: 'href', ti: 'AnyURI', rq: true }],
    },
    { ln: 'personType', ps: [{ n: 'name' }, { n: 'email', ti: '.emailType' }, { n: 'link', ti: '.linkType' }] },
    {
      ln: 'emailType',
      ps: [
        { n: 'id', t: 'a', an: 'id', rq: true },
        { n: 'domain', t: 'a', an: 'domain', rq: true },
      ],
    },
    {
      ln: 'copyrightType',
      ps: [
        { n: 'year', ti: 'GYear' },
        { n: 'license', ti: 'AnyURI' },
        { n: 'author', t: 'a', an: 'author', rq: true },
      ],
    },
  ],
};

const kmlSpace = 'http://www.opengis.net/kml/2.2';
/** Tracks with times beside KML 2.2, as 12-007r2, section 11.6, has them. */
const tracks: Schema = {
  n: 'Tracks',
  dens: 'http://www.google.com/kml/ext/2.2',
  eis: [
    { en: 'Track', ti: '.TrackType', sh: { lp: 'AbstractGeometryGroup', ns: kmlSpace } },
    { en: 'MultiTrack', ti: '.MultiTrackType', sh: { lp: 'AbstractGeometryGroup', ns: kmlSpace } },
  ],
  tis: [
    {
      ln: 'TrackType',
      ps: [
        { n: 'altitudeMode', en: { lp: 'altitudeMode', ns: kmlSpace } },
        { n: 'when', en: { lp: 'when', ns: kmlSpace }, col: true, ti: 'DateTime' },
        { n: 'coord', col: true },
      ],
    },
    { ln: 'MultiTrackType', ps: [{ n: 'Track', col: true, ti: '.TrackType' }] },
  ],
};

function parse(text: string): Node {
  const parser = new SaxesParser({ xmlns: true, position: true });
  const root: Node = { uri: '', name: '', attributes: [], children: [], text: '', line: 1 };
  const open = [root];
  parser.on('error', (error) => {
    throw error;
  });
  parser.on('opentag', ({ uri, local, attributes }) => {
    const node: Node = {
      uri,
      name: local,
      attributes: Object.values(attributes).map((one) => ({ uri: one.uri, name: one.local, value: one.value })),
      children: [],
      text: '',
      line: parser.line,
    };
    open[open.length - 1].children.push(node);
    open.push(node);
  });
  const addText = (more: string) => void (open[open.length - 1].text += more);
  parser.on('text', addText);
  parser.on('cdata', addText);
  parser.on('closetag', () => open.pop());
  parser.write(text).close();
  return root.children[0];
}

class Validator {
  private readonly types = new Map<string, { readonly schema: Schema; readonly type: Type }>();
  private readonly elements = new Map<
    string,
    { readonly ti: string | Type | undefined; readonly head: string | undefined }
  >();
  private readonly faults: string[] = [];
  private readonly ids = new Set<string>();

  constructor(schemas: readonly Schema[]) {
    for (const schema of schemas) {
      for (const type of schema.tis ?? []) this.types.set(`${schema.n}.${type.ln}`, { schema, type });
      for (const { en, ti, sh } of schema.eis ?? [])
        this.elements.set(nameIn(en, schema.dens), {
          ti: typeOf(ti, schema),
          head: sh === undefined ? undefined : nameIn(sh, schema.dens),
        });
    }
  }

  validate(text: string): readonly string[] {
    const root = parse(text);
    const known = this.elements.get(`{${root.uri}}${root.name}`);
    if (known) this.node(root, known.ti);
    else this.fault(root, 'no element of the schemas');
    return this.faults;
  }

  private fault({ name, line }: Node, what: string): void {
    this.faults.push(`line ${line}, <${name}>: ${what}`);
  }

  /** A type with those that it extends, the first of them first. */
  private chain(ref: string): { readonly schema: Schema; readonly type: Type }[] | undefined {
    const found = this.types.get(ref);
    if (!found) return undefined;
    const base = typeOf(found.type.bti, found.schema);
    return [...((base !== undefined && this.chain(base)) || []), found];
  }

  private text(node: Node, type: string | undefined): void {
    const value = node.text.trim();
    if (node.children.length) this.fault(node, `<${node.children[0].name}> in simple content`);
    this.value(node, type, value);
  }

  private value(node: Node, type: string | undefined, value: string): void {
    const own = type === undefined ? undefined : this.types.get(type);
    if (own?.type.vs && !own.type.vs.includes(value))
      this.fault(node, `"${value}" is none of ${own.type.vs.join(', ')}`);
    const test = type === undefined || !Object.hasOwn(simple, type) ? undefined : simple[type];
    if (test && !test(value)) this.fault(node, `"${value}" is no ${type}`);
    if (type !== 'ID') return;
    if (this.ids.has(value)) this.fault(node, `the id "${value}" stands twice`);
    this.ids.add(value);
  }

  private node(node: Node, ref: string | Type | undefined): void {
    const chain = typeof ref === 'string' ? this.chain(ref) : undefined;
    if (!chain || chain.some(({ type }) => type.t === 'enum')) {
      if (ref === 'AnyType') return;
      return this.text(node, ref as string | undefined);
    }
    const all = chain.flatMap(({ schema, type }) => (type.ps ?? []).map((property) => ({ schema, property })));
    this.attributes(node, all);
    const content = all.filter(({ property }) => !['a', 'aa', 'v'].includes(property.t ?? 'e'));
    const value = all.find(({ property }) => property.t === 'v');
    if (value) return this.text(node, typeOf(value.property.ti, value.schema));
    const mayHaveText = content.some(
      ({ property }) => /^(er|ers|es|ae)$/.test(property.t ?? '') && property.mx !== false,
    );
    if (node.text.trim() && !mayHaveText)
      this.fault(node, `text "${node.text.trim().slice(0, 20)}" where elements are wanted`);
    this.sequence(node, content);
  }

  private attributes(node: Node, all: readonly { readonly schema: Schema; readonly property: Property }[]): void {
    const declared = all.filter(({ property }) => property.t === 'a');
    const isOpen = all.some(({ property }) => property.t === 'aa');
    for (const { uri, name, value } of node.attributes) {
      if (uri === 'http://www.w3.org/2000/xmlns/' || uri === 'http://www.w3.org/2001/XMLSchema-instance') continue;
      const found = declared.find(
        ({ property: { an, n }, schema }) => nameIn(an ?? n, schema.dans) === `{${uri}}${name}`,
      );
      if (found) this.value(node, typeOf(found.property.ti, found.schema), value);
      else if (!isOpen) this.fault(node, `the attribute ${name} is not allowed`);
    }
    for (const { property } of declared)
      if (property.rq && !node.attributes.some(({ name }) => name === local(property.an ?? property.n)))
        this.fault(node, `the attribute ${local(property.an ?? property.n)} is missing`);
  }

  /** Children in the order of the properties, each as often as it may. */
  private sequence(node: Node, content: readonly { readonly schema: Schema; readonly property: Property }[]): void {
    let at = 0;
    let used = false;
    for (const inner of node.children) {
      const name = `{${inner.uri}}${inner.name}`;
      let next = at;
      let type: { readonly ti: string | Type | undefined } | undefined;
      while (next < content.length && !(type = this.accepted(content[next], name))) next++;
      if (!type) {
        this.fault(inner, `not allowed here in <${node.name}>`);
        continue;
      }
      if (next === at && used && !content[next].property.col) this.fault(inner, `stands twice in <${node.name}>`);
      used = true;
      at = next;
      this.node(inner, type.ti);
    }
  }

  private accepted(
    { schema, property }: { readonly schema: Schema; readonly property: Property },
    name: string,
  ): { readonly ti: string | Type | undefined } | undefined {
    const kind = property.t ?? 'e';
    if (kind === 'ae') return { ti: 'AnyType' };
    const options = property.etis ?? [{ en: property.en ?? property.n, ti: property.ti }];
    for (const { en, ti } of options) {
      const wanted = nameIn(en, schema.dens);
      if (wanted === name) return { ti: this.elements.get(name)?.ti ?? typeOf(ti, schema) };
      // Elements that may stand for it.
      if (kind === 'er' || kind === 'ers')
        for (let head = this.elements.get(name)?.head; head !== undefined; head = this.elements.get(head)?.head)
          if (head === wanted) return { ti: this.elements.get(name)!.ti };
    }
    return undefined;
  }
}

const local = (name: Name) => (typeof name === 'string' ? name : name.lp);
/** A name with its namespace; one that is written apart has none unless it says so. */
const nameIn = (name: Name, space = '') =>
  typeof name === 'string' ? `{${space}}${name}` : `{${name.ns ?? ''}}${name.lp}`;
const typeOf = (ref: TypeRef | undefined, schema: Schema): string | undefined => {
  if (typeof ref !== 'string') return undefined;
  return ref.startsWith('.') ? schema.n + ref : ref;
};

const sets = {
  gpx: () => [gpxSchema],
  kml: () => [published('KML_2_2_0'), published('Atom_1_0', 'w3c'), published('xAL_2_0'), tracks],
  sld: () => [
    published('SLD_1_1_0'),
    published('SE_1_1_0'),
    published('Filter_1_1_0'),
    published('GML_3_1_1'),
    published('XLink_1_0', 'w3c'),
  ],
};

/**
 * What a document has that its schema does not allow.
 *
 * @param kind which schema: GPX 1.1, KML 2.2, or SLD 1.1 with SE 1.1 and Filter Encoding 1.1
 * @param text the document
 * @returns a line for each fault; none where it is valid
 */
export const schemaFaults = (kind: keyof typeof sets, text: string): readonly string[] =>
  new Validator(sets[kind]()).validate(text);
