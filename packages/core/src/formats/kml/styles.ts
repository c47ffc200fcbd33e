import { child, childrenOf, textOf, type XmlNode } from '../../base/xml.js';
import type { FileFeature, FileLook } from '../files/feature-file.js';

/** The attributes that styles become, named as SVG names its properties. */
type Attribute = 'fill' | 'stroke' | 'stroke_width' | 'mark_color';
type Style = Partial<Record<Attribute, string | number>>;

/** A color of KML, alpha and blue first (12-007r2, section 16.8), as CSS writes it. */
export function cssColor(text: string | undefined): string | undefined {
  const [, alpha, blue, green, red] =
    /^#?([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})$/i.exec(text ?? '')?.map((part) => part.toLowerCase()) ??
    [];
  return alpha === undefined ? undefined : `#${red}${green}${blue}${alpha === 'ff' ? '' : alpha}`;
}

function styleOf(node: XmlNode): Style {
  const out: Style = {};
  const put = (key: Attribute, value: string | number | undefined) => {
    if (value !== undefined) out[key] = value;
  };
  const [line, poly, icon] = ['LineStyle', 'PolyStyle', 'IconStyle'].map((name) => child(node, name));
  if (line) {
    put('stroke', cssColor(textOf(line, 'color')));
    const width = Number(textOf(line, 'width') ?? NaN);
    put('stroke_width', Number.isFinite(width) ? width : undefined);
  }
  if (poly && textOf(poly, 'fill') !== '0') put('fill', cssColor(textOf(poly, 'color')));
  if (poly && textOf(poly, 'outline') === '0') delete out.stroke;
  if (icon) put('mark_color', cssColor(textOf(icon, 'color')));
  return out;
}

/** The shared styles of a document, and the looks of its features. */
export class StyleBook {
  /** Whether any feature was given a look. */
  used = false;
  private readonly shared = new Map<string, Style>();
  private readonly maps = new Map<string, string>();

  constructor(root: XmlNode) {
    this.collect(root);
  }

  private collect(node: XmlNode): void {
    for (const inner of node.children) {
      const id = inner.attributes['id'];
      if (inner.name === 'Placemark') continue;
      if (inner.name === 'Style' && id !== undefined) this.shared.set(id, styleOf(inner));
      else if (inner.name === 'StyleMap' && id !== undefined) {
        const normal = childrenOf(inner, 'Pair').find((pair) => textOf(pair, 'key') === 'normal');
        const url = textOf(normal, 'styleUrl');
        if (url !== undefined) this.maps.set(id, url);
      } else this.collect(inner);
    }
  }

  /** The look of a placemark as attributes: the shared style, and its own over it. */
  attributesOf(placemark: XmlNode): Style {
    const id = (url: string | undefined) => url?.replace(/^.*#/, '');
    const url = id(textOf(placemark, 'styleUrl'));
    const name = url === undefined ? undefined : (id(this.maps.get(url)) ?? url);
    const inner = child(placemark, 'Style');
    const style = { ...(name === undefined ? {} : this.shared.get(name)), ...(inner ? styleOf(inner) : {}) };
    if (Object.keys(style).length) this.used = true;
    return style;
  }

  /** Symbols of a sheet's layer that take colors and widths from the attributes. */
  look(features: readonly FileFeature[]): FileLook {
    const has = (key: Attribute) => features.some(({ properties }) => properties[key] !== undefined);
    const is = (key: Attribute) => ({ is: key });
    return {
      ...(has('fill') ? { fill: { color: is('fill') } } : {}),
      ...(has('stroke')
        ? { stroke: { color: is('stroke'), ...(has('stroke_width') ? { width: is('stroke_width') } : {}) } }
        : {}),
      ...(has('mark_color') ? { mark: { shape: 'circle', color: is('mark_color') } } : {}),
    };
  }
}
