// Colors of CSS as numbers: every absolute color of CSS Color Module Level 4, and `color-mix()` and relative colors of Level 5.
import { color as named, rgb as toRgb, type ColorCommonInstance } from 'd3-color';

type Triple = readonly [number, number, number];
type Matrix = readonly [Triple, Triple, Triple];

/** A color in one of the spaces; a component that is `none` is NaN. */
export interface CssColor {
  readonly space: SpaceName;
  readonly coords: Triple;
  /** 0 clear to 1 solid. */
  readonly alpha: number;
}

interface Space {
  /** Its components, as relative colors name them, with what 100 % of each is. */
  readonly parts: readonly (readonly [name: string, whole: number])[];
  /** To CIE XYZ by daylight D65, and back. */
  toXyz(coords: Triple): Triple;
  fromXyz(xyz: Triple): Triple;
  /** To sRGB and back, of spaces that are other components of it. */
  readonly ofSrgb?: { to(coords: Triple): Triple; from(rgb: Triple): Triple };
  /** Which component is a hue in degrees; default none. */
  readonly hue?: number;
  /** Below which second component a hue means nothing (CSS Color 4, section 12.2); default never. */
  readonly achromatic?: number;
}

const times = (m: Matrix, [x, y, z]: Triple): Triple => [
  m[0][0] * x + m[0][1] * y + m[0][2] * z,
  m[1][0] * x + m[1][1] * y + m[1][2] * z,
  m[2][0] * x + m[2][1] * y + m[2][2] * z,
];

function inverse([[a, b, c], [d, e, f], [g, h, i]]: Matrix): Matrix {
  const det = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g);
  return [
    [(e * i - f * h) / det, (c * h - b * i) / det, (b * f - c * e) / det],
    [(f * g - d * i) / det, (a * i - c * g) / det, (c * d - a * f) / det],
    [(d * h - e * g) / det, (b * g - a * h) / det, (a * e - b * d) / det],
  ];
}

const each = (coords: Triple, change: (v: number) => number): Triple => [
  change(coords[0]),
  change(coords[1]),
  change(coords[2]),
];
/** A curve that goes on below nought as it does above. */
const odd = (curve: (v: number) => number) => (v: number) => Math.sign(v) * curve(Math.abs(v));

/** From daylight D50 to D65 by the Bradford method (CSS Color 4, section 18). */
const d50ToD65: Matrix = [
  [0.955473421488075, -0.02309845494876471, 0.06325924320057072],
  [-0.0283697093338637, 1.0099953980813041, 0.021041441191917323],
  [0.012314014864481998, -0.020507649298898964, 1.330365926242124],
];
const d65ToD50 = inverse(d50ToD65);

/** A space of red, green and blue: its matrix to XYZ, and its curve from linear light. */
function rgbSpace(
  toXyz: Matrix,
  toLinear: (v: number) => number,
  fromLinear: (v: number) => number,
  isD50 = false,
): Space {
  const back = inverse(toXyz);
  const [open, close] = [odd(toLinear), odd(fromLinear)];
  return {
    parts: [
      ['r', 1],
      ['g', 1],
      ['b', 1],
    ],
    toXyz: (coords) => {
      const xyz = times(toXyz, each(coords, open));
      return isD50 ? times(d50ToD65, xyz) : xyz;
    },
    fromXyz: (xyz) => each(times(back, isD50 ? times(d65ToD50, xyz) : xyz), close),
  };
}

// IEC 61966-2-1, as CSS Color 4, section 10.2 has it.
const linearOfSrgb = (v: number) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);
const srgbOfLinear = (v: number) => (v > 0.0031308 ? 1.055 * v ** (1 / 2.4) - 0.055 : 12.92 * v);
const same = (v: number) => v;
const srgbMatrix: Matrix = [
  [506752 / 1228815, 87881 / 245763, 12673 / 70218],
  [87098 / 409605, 175762 / 245763, 12673 / 175545],
  [7918 / 409605, 87881 / 737289, 1001167 / 1053270],
];
const srgb = {
  ...rgbSpace(srgbMatrix, linearOfSrgb, srgbOfLinear),
  ofSrgb: { to: (rgb: Triple) => rgb, from: (rgb: Triple) => rgb },
};

/** sRGB in other components. */
const over = (to: (coords: Triple) => Triple, from: (coords: Triple) => Triple) => ({
  toXyz: (coords: Triple) => srgb.toXyz(to(coords)),
  fromXyz: (xyz: Triple) => from(srgb.fromXyz(xyz)),
  ofSrgb: { to, from },
});

const turn = (degrees: number) => ((degrees % 360) + 360) % 360;

/** CSS Color 4, section 7.1. */
function hslToRgb([h, s, l]: Triple): Triple {
  const [sat, light] = [s / 100, l / 100];
  const channel = (n: number) => {
    const k = (n + turn(h) / 30) % 12;
    return light - sat * Math.min(light, 1 - light) * Math.max(-1, Math.min(k - 3, 9 - k, 1));
  };
  return [channel(0), channel(8), channel(4)];
}

/** CSS Color 4, section 7.2. */
function rgbToHsl([r, g, b]: Triple): Triple {
  const [max, min] = [Math.max(r, g, b), Math.min(r, g, b)];
  const [light, d] = [(min + max) / 2, max - min];
  // What a way through other spaces leaves of a gray is no color.
  if (d < 1e-9) return [0, 0, light * 100];
  let sat = light === 0 || light === 1 ? 0 : (max - light) / Math.min(light, 1 - light);
  let hue = 60 * (max === r ? (g - b) / d + (g < b ? 6 : 0) : max === g ? (b - r) / d + 2 : (r - g) / d + 4);
  // Colors far out of gamut have a negative saturation.
  if (sat < 0) [hue, sat] = [hue + 180, -sat];
  return [turn(hue), sat * 100, light * 100];
}

/** CSS Color 4, section 8.1. */
function hwbToRgb([h, w, k]: Triple): Triple {
  const [white, black] = [w / 100, k / 100];
  if (white + black >= 1) return each([1, 1, 1], () => white / (white + black));
  return each(hslToRgb([h, 100, 50]), (v) => v * (1 - white - black) + white);
}
const rgbToHwb = (rgb: Triple): Triple => [rgbToHsl(rgb)[0], 100 * Math.min(...rgb), 100 * (1 - Math.max(...rgb))];

/** CIE Lab by daylight D50 (CSS Color 4, section 9.3). */
const [kappa, epsilon] = [24389 / 27, 216 / 24389];
const white: Triple = [0.3457 / 0.3585, 1, (1 - 0.3457 - 0.3585) / 0.3585];
const lab = {
  toXyz([l, a, b]: Triple): Triple {
    const y = (l + 16) / 116;
    const [x, z] = [a / 500 + y, y - b / 200];
    const open = (f: number) => (f ** 3 > epsilon ? f ** 3 : (116 * f - 16) / kappa);
    return times(d50ToD65, [
      open(x) * white[0],
      (l > kappa * epsilon ? y ** 3 : l / kappa) * white[1],
      open(z) * white[2],
    ]);
  },
  fromXyz(xyz: Triple): Triple {
    const d50 = times(d65ToD50, xyz);
    const [x, y, z] = d50.map((v, i) => {
      const share = v / white[i];
      return share > epsilon ? Math.cbrt(share) : (kappa * share + 16) / 116;
    });
    return [116 * y - 16, 500 * (x - y), 200 * (y - z)];
  },
};

/** Oklab (CSS Color 4, section 9.4, with the matrices of section 18). */
const xyzToLms: Matrix = [
  [0.819022437996703, 0.3619062600528904, -0.1288737815209879],
  [0.0329836539323885, 0.9292868615863434, 0.0361446663506424],
  [0.0481771893596242, 0.2642395317527308, 0.6335478284694309],
];
const lmsToOklab: Matrix = [
  [0.210454268309314, 0.7936177747023054, -0.0040720430116193],
  [1.9779985324311684, -2.4285922420485799, 0.450593709617411],
  [0.0259040424655478, 0.7827717124575296, -0.8086757549230774],
];
const [lmsToXyz, oklabToLms] = [inverse(xyzToLms), inverse(lmsToOklab)];
const oklab = {
  toXyz: (coords: Triple) =>
    times(
      lmsToXyz,
      each(times(oklabToLms, coords), (v) => v ** 3),
    ),
  fromXyz: (xyz: Triple) => times(lmsToOklab, each(times(xyzToLms, xyz), Math.cbrt)),
};

/** Lightness, chroma and hue of a space of two opposing axes (CSS Color 4, section 9.3). */
const polar = (base: { toXyz(coords: Triple): Triple; fromXyz(xyz: Triple): Triple }) => ({
  toXyz: ([l, c, h]: Triple) => base.toXyz([l, c * Math.cos((h * Math.PI) / 180), c * Math.sin((h * Math.PI) / 180)]),
  fromXyz(xyz: Triple): Triple {
    const [l, a, b] = base.fromXyz(xyz);
    return [l, Math.hypot(a, b), turn((Math.atan2(b, a) * 180) / Math.PI)];
  },
});

const gamma = (power: number) => [(v: number) => v ** power, (v: number) => v ** (1 / power)] as const;
// ROMM RGB and ITU-R BT.2020, with their curves (CSS Color 4, sections 10.6 and 10.7).
const [alpha2020, beta2020] = [1.09929682680944, 0.018053968510807];
const xyzParts = [
  ['x', 1],
  ['y', 1],
  ['z', 1],
] as const;

const spaces = {
  srgb,
  hsl: {
    parts: [
      ['h', 360],
      ['s', 100],
      ['l', 100],
    ],
    ...over(hslToRgb, rgbToHsl),
    hue: 0,
    achromatic: 0.001,
  },
  hwb: {
    parts: [
      ['h', 360],
      ['w', 100],
      ['b', 100],
    ],
    ...over(hwbToRgb, rgbToHwb),
    hue: 0,
  },
  lab: {
    parts: [
      ['l', 100],
      ['a', 125],
      ['b', 125],
    ],
    ...lab,
  },
  lch: {
    parts: [
      ['l', 100],
      ['c', 150],
      ['h', 360],
    ],
    ...polar(lab),
    hue: 2,
    achromatic: 0.0015,
  },
  oklab: {
    parts: [
      ['l', 1],
      ['a', 0.4],
      ['b', 0.4],
    ],
    ...oklab,
  },
  oklch: {
    parts: [
      ['l', 1],
      ['c', 0.4],
      ['h', 360],
    ],
    ...polar(oklab),
    hue: 2,
    achromatic: 0.000004,
  },
  'srgb-linear': rgbSpace(srgbMatrix, same, same),
  'display-p3': rgbSpace(
    [
      [608311 / 1250200, 189793 / 714400, 198249 / 1000160],
      [35783 / 156275, 247089 / 357200, 198249 / 2500400],
      [0, 32229 / 714400, 5220557 / 5000800],
    ],
    linearOfSrgb,
    srgbOfLinear,
  ),
  'a98-rgb': rgbSpace(
    [
      [573536 / 994567, 263643 / 1420810, 187206 / 994567],
      [591459 / 1989134, 6239551 / 9945670, 374412 / 4972835],
      [53769 / 1989134, 351524 / 4972835, 4929758 / 4972835],
    ],
    ...gamma(563 / 256),
  ),
  'prophoto-rgb': rgbSpace(
    [
      [0.7977666449006423, 0.13518129740053308, 0.0313477341283922],
      [0.2880748288194013, 0.711835234241873, 0.00008993693872564],
      [0, 0, 0.8251046025104602],
    ],
    (v) => (v <= 16 / 512 ? v / 16 : v ** 1.8),
    (v) => (v >= 1 / 512 ? v ** (1 / 1.8) : 16 * v),
    true,
  ),
  rec2020: rgbSpace(
    [
      [63426534 / 99577255, 20160776 / 139408157, 47086771 / 278816314],
      [26158966 / 99577255, 472592308 / 697040785, 8267143 / 139408157],
      [0, 19567812 / 697040785, 295819943 / 278816314],
    ],
    (v) => (v < beta2020 * 4.5 ? v / 4.5 : ((v + alpha2020 - 1) / alpha2020) ** (1 / 0.45)),
    (v) => (v > beta2020 ? alpha2020 * v ** 0.45 - (alpha2020 - 1) : 4.5 * v),
  ),
  'xyz-d65': { parts: xyzParts, toXyz: (xyz: Triple) => xyz, fromXyz: (xyz: Triple) => xyz },
  'xyz-d50': {
    parts: xyzParts,
    toXyz: (xyz: Triple) => times(d50ToD65, xyz),
    fromXyz: (xyz: Triple) => times(d65ToD50, xyz),
  },
} as const satisfies Readonly<Record<string, Space>>;

export type SpaceName = keyof typeof spaces;
const spaceOf = (name: SpaceName): Space => spaces[name];
const spaceNamed = (name: string): SpaceName | undefined =>
  name === 'xyz' ? 'xyz-d65' : Object.hasOwn(spaces, name) ? (name as SpaceName) : undefined;

const zero = (v: number) => (Number.isNaN(v) ? 0 : v);

/** A color in another space. A hue that means nothing there, and components that were missing in the same space, are NaN. */
function inSpace(color: CssColor, space: SpaceName): CssColor {
  if (color.space === space) return color;
  const { fromXyz, hue, achromatic = -1, ofSrgb } = spaceOf(space);
  const from = spaceOf(color.space);
  const own = each(color.coords, zero);
  const converted = ofSrgb && from.ofSrgb ? ofSrgb.from(from.ofSrgb.to(own)) : fromXyz(from.toXyz(own));
  const coords = [...converted] as [number, number, number];
  const isGrey = space === 'hwb' ? coords[1] + coords[2] >= 100 - 1e-5 : coords[1] <= achromatic;
  if (hue !== undefined && isGrey) coords[hue] = NaN;
  return { space, coords, alpha: color.alpha };
}

/**
 * Red, green, blue and alpha of a color in sRGB, 0 to 1. Colors outside are clipped part by part, as browsers do where they paint.
 */
export function srgbOf(color: CssColor): readonly [number, number, number, number] {
  const clip = (v: number) => Math.max(0, Math.min(1, zero(v)));
  const [r, g, b] = each(inSpace(color, 'srgb').coords, clip);
  return [r, g, b, clip(color.alpha)];
}

/** What a word, a sign or a bracket of a color is; numbers have their unit. */
type Token =
  | { readonly kind: 'number'; readonly value: number; readonly unit: string }
  | { readonly kind: 'word'; readonly text: string }
  | { readonly kind: 'function'; readonly name: string }
  | { readonly kind: 'hash'; readonly text: string }
  | { readonly kind: 'sign'; readonly text: string };

/** Raised within this file for values that are not colors, or none that is read here. */
class NoColor extends Error {
  constructor(readonly isUnsupported: boolean) {
    super();
  }
}
const wrong = (): NoColor => new NoColor(false);
const unsupported = (): NoColor => new NoColor(true);

/** CSS Syntax Module Level 3, section 4, as far as colors need it. */
const tokenPattern =
  /\s+|\/\*.*?\*\/|([+-]?(?:\d+\.\d+|\d+|\.\d+)(?:e[+-]?\d+)?)(%|[a-z]+)?|(-?[a-z_][\w-]*)\(|(-?[a-z_][\w-]*)|#([\da-f]+)|([,/()*+-])/giy;

function tokensOf(text: string): Token[] {
  const out: Token[] = [];
  tokenPattern.lastIndex = 0;
  while (tokenPattern.lastIndex < text.length) {
    const match = tokenPattern.exec(text);
    if (!match) throw wrong();
    const [, number, unit = '', name, word, hash, sign] = match;
    if (number !== undefined) out.push({ kind: 'number', value: Number(number), unit: unit.toLowerCase() });
    else if (name !== undefined) out.push({ kind: 'function', name: name.toLowerCase() });
    else if (word !== undefined) out.push({ kind: 'word', text: word.toLowerCase() });
    else if (hash !== undefined) out.push({ kind: 'hash', text: `#${hash}` });
    else if (sign !== undefined) out.push({ kind: 'sign', text: sign });
  }
  return out;
}

/** Degrees in a unit of angles (CSS Values 4, section 7.1). */
const angles: Readonly<Record<string, number>> = { deg: 1, grad: 0.9, rad: 180 / Math.PI, turn: 360 };

/** A component as written: a number or a percentage; NaN is `none`. */
interface Component {
  readonly value: number;
  readonly unit: string;
}
const none: Component = { value: NaN, unit: 'none' };

/** Deepest nesting of functions. */
const deepest = 32;

class ColorParser {
  private readonly tokens: readonly Token[];
  private at = 0;
  private depth = 0;

  constructor(text: string) {
    this.tokens = tokensOf(text);
  }

  whole(): CssColor {
    const color = this.color();
    if (this.at < this.tokens.length) throw wrong();
    return color;
  }

  private get next(): Token | undefined {
    return this.tokens[this.at];
  }

  private isSign(text: string): boolean {
    return this.next?.kind === 'sign' && this.next.text === text;
  }

  private take(text: string): boolean {
    if (!this.isSign(text)) return false;
    this.at++;
    return true;
  }

  private expect(text: string): void {
    // Brackets that are open at the end are closed there (CSS Syntax 3, section 5.4.8).
    if (!this.take(text) && !(text === ')' && !this.next)) throw wrong();
  }

  private word(): string | undefined {
    if (this.next?.kind !== 'word') return undefined;
    const { text } = this.next;
    this.at++;
    return text;
  }

  private color(): CssColor {
    if (++this.depth > deepest) throw unsupported();
    const token = this.next;
    this.at++;
    if (token?.kind === 'hash' || token?.kind === 'word') {
      const found = ofWord(token.text);
      this.depth--;
      return found;
    }
    if (token?.kind !== 'function') throw wrong();
    const color = this.call(token.name);
    this.expect(')');
    this.depth--;
    return color;
  }

  private call(name: string): CssColor {
    if (name === 'color-mix') return this.mix();
    const space = name === 'rgba' || name === 'rgb' ? 'srgb' : name === 'hsla' ? 'hsl' : spaceNamed(name);
    if (name !== 'color' && (space === undefined || !/^(rgba?|hsla?|hwb|(ok)?(lab|lch))$/.test(name)))
      throw unsupportedNames.test(name) ? unsupported() : wrong();
    let origin: CssColor | undefined;
    if (this.next?.kind === 'word' && this.next.text === 'from') {
      this.at++;
      origin = this.color();
    }
    if (name === 'color') {
      const own = spaceNamed(this.word() ?? '');
      if (own === undefined || ['hsl', 'hwb', 'lab', 'lch', 'oklab', 'oklch'].includes(own)) throw wrong();
      return this.components(own, origin, false);
    }
    return this.components(space!, origin, space === 'srgb', /^(rgb|hsl)/.test(name));
  }

  /** Three components and an alpha; `bytes` for red, green and blue that run to 255. */
  private components(space: SpaceName, origin: CssColor | undefined, bytes: boolean, mayHaveCommas = false): CssColor {
    const { parts, hue } = spaceOf(space);
    const scale = bytes ? 255 : 1;
    const names = new Map<string, number>();
    if (origin) {
      const own = inSpace(origin, space);
      parts.forEach(([name], i) => names.set(name, zero(own.coords[i]) * scale));
      names.set('alpha', origin.alpha);
    }
    const read: Component[] = [this.component(names)];
    const isLegacy = mayHaveCommas && !origin && this.isSign(',');
    for (let k = 1; k < 3; k++) {
      if (isLegacy) this.expect(',');
      read.push(this.component(names));
    }
    let alpha: Component = { value: origin ? origin.alpha : 1, unit: '' };
    if (isLegacy ? this.take(',') : this.take('/')) alpha = this.component(names);
    if (alpha.unit && alpha.unit !== '%' && alpha.unit !== 'none') throw wrong();
    // The older form has no "none", and its numbers are all of one kind (section 5.1).
    if (isLegacy) {
      const kinds = read.slice(space === 'srgb' ? 0 : 1).map(({ unit }) => unit);
      if (
        [...read, alpha].includes(none) ||
        kinds.some((unit) => unit !== kinds[0]) ||
        (space === 'hsl' && kinds[0] !== '%')
      )
        throw wrong();
    }
    const coords = read.map(({ value, unit }, i) => {
      if (unit === 'none') return NaN;
      if (i === hue) {
        if (unit === '%') throw wrong();
        return value * (unit ? (angles[unit] ?? NaN) : 1);
      }
      if (unit && unit !== '%') throw wrong();
      return unit === '%' ? (value / 100) * parts[i][1] : value / scale;
    }) as unknown as Triple;
    if (coords.some((v, i) => Number.isNaN(v) && read[i].unit !== 'none')) throw wrong();
    const share = alpha.unit === '%' ? alpha.value / 100 : zero(alpha.value);
    return { space, coords: held(space, coords, bytes), alpha: Math.max(0, Math.min(1, share)) };
  }

  private component(names: ReadonlyMap<string, number>): Component {
    const token = this.next;
    if (token?.kind === 'number') {
      this.at++;
      return token;
    }
    if (token?.kind === 'word') {
      this.at++;
      if (token.text === 'none') return none;
      const value = names.get(token.text);
      if (value === undefined) throw wrong();
      return { value, unit: '' };
    }
    if (token?.kind !== 'function') throw wrong();
    if (token.name !== 'calc') throw mathNames.test(token.name) ? unsupported() : wrong();
    this.at++;
    const sum = this.sum(names);
    this.expect(')');
    return sum;
  }

  /** CSS Values 4, section 10.1: sums of products. */
  private sum(names: ReadonlyMap<string, number>): Component {
    if (++this.depth > deepest) throw unsupported();
    let left = this.product(names);
    for (;;) {
      const sign = this.take('+') ? 1 : this.take('-') ? -1 : 0;
      // A number with a sign of its own, as in calc(l -0.1), is no sum.
      if (!sign) break;
      const right = this.product(names);
      if (left.unit !== right.unit) throw wrong();
      left = { value: left.value + sign * right.value, unit: left.unit };
    }
    this.depth--;
    return left;
  }

  private product(names: ReadonlyMap<string, number>): Component {
    let left = this.factor(names);
    for (;;) {
      if (this.take('*')) {
        const right = this.factor(names);
        if (left.unit && right.unit) throw wrong();
        left = { value: left.value * right.value, unit: left.unit || right.unit };
      } else if (this.take('/')) {
        const right = this.factor(names);
        if (right.unit) throw wrong();
        left = { value: left.value / right.value, unit: left.unit };
      } else return left;
    }
  }

  private factor(names: ReadonlyMap<string, number>): Component {
    if (!this.take('(')) {
      const found = this.component(names);
      if (found === none) throw wrong();
      return found;
    }
    const inner = this.sum(names);
    this.expect(')');
    return inner;
  }

  /** `color-mix()` (CSS Color 5, section 2). */
  private mix(): CssColor {
    const isSaid = this.next?.kind === 'word' && this.next.text === 'in';
    if (isSaid) this.at++;
    const space = isSaid ? spaceNamed(this.word() ?? '') : 'oklab';
    if (space === undefined) throw wrong();
    const { hue } = spaceOf(space);
    let way = 'shorter';
    const said = isSaid ? this.word() : undefined;
    if (said !== undefined) {
      if (
        hue === undefined ||
        !['shorter', 'longer', 'increasing', 'decreasing'].includes(said) ||
        this.word() !== 'hue'
      )
        throw wrong();
      way = said;
    }
    if (isSaid) this.expect(',');
    const [first, p] = this.share();
    this.expect(',');
    const [second, q] = this.share();
    let [a, b] = p === undefined ? (q === undefined ? [50, 50] : [100 - q, q]) : [p, q ?? 100 - p];
    if (a + b === 0) throw wrong();
    const weaker = Math.min(1, (a + b) / 100);
    [a, b] = [a / (a + b), b / (a + b)];
    const mixed = mixed2(inSpace(first, space), inSpace(second, space), b, way);
    return { ...mixed, alpha: mixed.alpha * weaker };
  }

  private share(): [CssColor, number | undefined] {
    const before = this.percentage();
    const color = this.color();
    return [color, before ?? this.percentage()];
  }

  private percentage(): number | undefined {
    const token = this.next;
    if (token?.kind !== 'number' || token.unit !== '%') return undefined;
    if (token.value < 0 || token.value > 100) throw wrong();
    this.at++;
    return token.value;
  }
}

/** Components held within their ranges, where the standard has some (sections 5.1, 7, 9.3 and 9.4). */
function held(space: SpaceName, coords: Triple, bytes: boolean): Triple {
  const between = (v: number, low: number, high: number) => (Number.isNaN(v) ? v : Math.max(low, Math.min(high, v)));
  const [x, y, z] = coords;
  if (bytes) return each(coords, (v) => between(v, 0, 1));
  if (space === 'hsl') return [x, between(y, 0, Infinity), z];
  if (space === 'lab' || space === 'lch') return [between(x, 0, 100), space === 'lch' ? between(y, 0, Infinity) : y, z];
  if (space === 'oklab' || space === 'oklch')
    return [between(x, 0, 1), space === 'oklch' ? between(y, 0, Infinity) : y, z];
  return coords;
}

/** Two colors of one space mixed, premultiplied (CSS Color 4, section 12). */
function mixed2(a: CssColor, b: CssColor, share: number, way: string): CssColor {
  const { hue } = spaceOf(a.space);
  const alpha = a.alpha + (b.alpha - a.alpha) * share;
  const coords = a.coords.map((own, i) => {
    const other = b.coords[i];
    // A component that one has not is that of the other.
    const [from, to] = [Number.isNaN(own) ? other : own, Number.isNaN(other) ? own : other];
    if (i === hue) return from + (hueTo(from, to, way) - from) * share;
    const sum = from * a.alpha * (1 - share) + to * b.alpha * share;
    return alpha ? sum / alpha : from + (to - from) * share;
  }) as unknown as Triple;
  return { space: a.space, coords, alpha };
}

/** Where a hue goes to on its way (CSS Color 4, section 12.4). */
function hueTo(from: number, to: number, way: string): number {
  const d = turn(to) - turn(from);
  const full =
    way === 'longer'
      ? d > 0 && d < 180
        ? d - 360
        : d > -180 && d <= 0
          ? d + 360
          : d
      : way === 'increasing'
        ? d < 0
          ? d + 360
          : d
        : way === 'decreasing'
          ? d > 0
            ? d - 360
            : d
          : d > 180
            ? d - 360
            : d < -180
              ? d + 360
              : d;
  return from + full;
}

/** What depends on the page, its theme or its variables (CSS Color 4, sections 6.2 and 6.3; Level 5). */
const systemColors = new Set(
  (
    'accentcolor accentcolortext activetext buttonborder buttonface buttontext canvas canvastext field fieldtext graytext highlight ' +
    'highlighttext linktext mark marktext selecteditem selecteditemtext visitedtext currentcolor'
  ).split(' '),
);
const unsupportedNames = /^(light-dark|contrast-color|device-cmyk|color-contrast|var|env|attr)$/;
const mathNames =
  /^(min|max|clamp|round|mod|rem|sin|cos|tan|asin|acos|atan2?|pow|sqrt|hypot|log|exp|abs|sign|var|env)$/;

function ofWord(text: string): CssColor {
  if (systemColors.has(text)) throw unsupported();
  // Names and hexadecimal notations.
  const found = /^(#(?:[\da-f]{3,4}|[\da-f]{6}|[\da-f]{8})|[a-z]+)$/i.test(text) ? named(text) : null;
  if (!found) throw wrong();
  const { r, g, b, opacity } = toRgb(found as ColorCommonInstance);
  return { space: 'srgb', coords: [zero(r) / 255, zero(g) / 255, zero(b) / 255], alpha: opacity };
}

/**
 * Reads a color: every absolute color of CSS Color Module Level 4 (names, hexadecimal, `rgb`, `hsl`, `hwb`, `lab`, `lch`, `oklab`, `oklch`,
 * `color()`, `none`), `color-mix()` and relative colors of Level 5, with `calc()`.
 *
 * @returns `unsupported` for a color of CSS that means nothing away from a page, such as `currentcolor`; undefined for values that are not colors
 */
export function parseCssColor(text: string): CssColor | 'unsupported' | undefined {
  try {
    return new ColorParser(text.trim()).whole();
  } catch (error) {
    if (error instanceof NoColor) return error.isUnsupported ? 'unsupported' : undefined;
    throw error;
  }
}
