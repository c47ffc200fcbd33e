import { Fault } from '../base/fault.js';
import { nearestSpelling } from '../base/spelling.js';
import type { Rgba } from './hex-color.js';
import type { CompiledLayer, CompiledRule, CompiledSheet } from './compile.js';
import { domainOf, isWithin, runTogether, type Domain, type Stretch } from './domain.js';
import type { Sheet } from './types.js';

/**
 * Finds problems in valid sheets: rules that can never apply, gaps between the ranges of rules, alpha out of range, labels with poor
 * contrast, and unused data and colors.
 */
export function lintSheet(compiled: CompiledSheet): Fault[] {
  return [
    ...compiled.layers.flatMap((layer) => [...ruleWarnings(layer), ...contrastWarnings(layer, compiled)]),
    ...alphaWarnings(compiled.sheet),
    ...unusedWarnings(compiled.sheet),
  ];
}

const warning = (code: string, message: string, hint: string, at: string) =>
  new Fault(`warn.${code}`, message, hint, at);

type Zooms = readonly [number, number];
const covers = (outer: Zooms, inner: Zooms) => outer[0] <= inner[0] && outer[1] >= inner[1];

function ruleWarnings(layer: CompiledLayer): Fault[] {
  const out: Fault[] = [];
  const path = `$.layers[${layer.index}]`;
  const { rules, source } = layer;
  if (!source.rules) return out;
  const domains = rules.map((rule) => rule.where && domainOf(rule.where.tree));
  rules.forEach((rule, i) => {
    const at = `${path}.rules[${i}]`;
    if (rule.zoom[1] <= layer.zoom[0] || rule.zoom[0] >= layer.zoom[1]) {
      out.push(
        warning(
          'unreachable',
          `rule ${i + 1} of layer "${layer.id}" holds at zoom ${rule.zoom.join(' to ')}, and the layer is drawn at ${layer.zoom.join(' to ')}`,
          'Make the ranges overlap, or remove the rule.',
          at,
        ),
      );
      return;
    }
    const earlier = rules.slice(0, i).filter((other) => covers(other.zoom, rule.zoom));
    const open = earlier.find((other) => !other.where);
    const same = earlier.find((other) => other.where && rule.where && other.where.text === rule.where.text);
    const before = earlier.map((other) => domains[rules.indexOf(other)]).filter((d) => d !== undefined);
    const own = domains[i];
    const swallowed = own && before.length > 0 && isWithin(own, united(own.property, before));
    const empty = own?.stretches?.length === 0;
    if (!open && !same && !swallowed && !empty) return;
    out.push(
      warning(
        'unreachable',
        empty
          ? `rule ${i + 1} of layer "${layer.id}" can never match: ${rule.where!.text}`
          : `no feature can reach rule ${i + 1} of layer "${layer.id}": earlier rules match everything that it matches`,
        empty ? 'Check its limits.' : 'Put the narrower rule first, or remove this one.',
        at,
      ),
    );
  });
  out.push(...gapWarnings(layer, domains, path));
  return out;
}

function united(property: string, domains: readonly Domain[]): Domain {
  const alike = domains.filter((domain) => domain.property === property);
  const kinds = alike.flatMap((domain) => [...(domain.kinds ?? [])]);
  const stretches = alike.flatMap((domain) => domain.stretches ?? []);
  return stretches.length ? { property, stretches } : { property, kinds: new Set(kinds) };
}

const isOtherwise = (rule: CompiledRule) => !rule.where;

/** Numbers, or zoom levels, that fall between the ranges of rules. */
function gapWarnings(layer: CompiledLayer, domains: readonly (Domain | undefined)[], path: string): Fault[] {
  const out: Fault[] = [];
  const { rules } = layer;
  if (rules.some((rule) => isOtherwise(rule) && covers(rule.zoom, layer.zoom))) return out;
  const properties = new Set(domains.flatMap((domain) => (domain?.stretches ? [domain.property] : [])));
  for (const property of properties) {
    const stretches = domains.flatMap((domain) => (domain?.property === property ? (domain.stretches ?? []) : []));
    for (const text of gapsOf(stretches))
      out.push(
        warning(
          'gap',
          `no rule of layer "${layer.id}" takes ${property} ${text}`,
          'Close the gap, or add a last rule with "otherwise": true.',
          `${path}.rules`,
        ),
      );
  }
  const sameFilter = rules.every((rule) => rule.where?.text === rules[0].where?.text);
  if (sameFilter && rules.length > 1) {
    const spans = rules.map(({ zoom: [low, high] }) => ({ low, high, lowIn: true, highIn: false }));
    for (const text of gapsOf(spans))
      out.push(
        warning(
          'gap',
          `no rule of layer "${layer.id}" holds at zoom ${text}`,
          'Make the zoom ranges adjacent.',
          `${path}.rules`,
        ),
      );
  }
  return out;
}

function gapsOf(stretches: readonly Stretch[]): string[] {
  const runs = runTogether(stretches);
  return runs.slice(1).map((next, i) => {
    const last = runs[i];
    return last.high === next.low ? `exactly ${last.high}` : `between ${last.high} and ${next.low}`;
  });
}

function alphaWarnings(sheet: Sheet): Fault[] {
  const out: Fault[] = [];
  walk(sheet, '$', (value, at) => {
    if (typeof value !== 'string') return;
    const alpha = /^(?:rgba?|hsla?)\(.*[,/]\s*([\d.]+)\s*\)$/i.exec(value);
    const parts = value.split(/[,\s/]+/).length;
    if (!alpha || parts < 4 || !(Number(alpha[1]) > 1)) return;
    out.push(
      warning(
        'alpha',
        `the alpha of ${value} is above 1 and is treated as 1`,
        `Alpha runs from 0 to 1; write ${Math.round((Math.min(255, Number(alpha[1])) / 255) * 100) / 100} for ${alpha[1]} of 255.`,
        at,
      ),
    );
  });
  return out;
}

/** Visits every value of a JSON tree with its path. */
function walk(node: unknown, at: string, visit: (value: unknown, at: string) => void): void {
  visit(node, at);
  if (Array.isArray(node)) node.forEach((item, i) => walk(item, `${at}[${i}]`, visit));
  else if (typeof node === 'object' && node !== null)
    for (const [key, value] of Object.entries(node))
      if (!(at === '$' && key === 'data')) walk(value, `${at}.${key}`, visit);
}

/** Relative luminance (WCAG 2.2, definition) of a color laid over a ground. */
function luminance([r, g, b, a]: Rgba, ground: Rgba): number {
  const part = (v: number, under: number) => {
    const mixed = v + under * (1 - a);
    return mixed <= 0.04045 ? mixed / 12.92 : ((mixed + 0.055) / 1.055) ** 2.4;
  };
  return 0.2126 * part(r, ground[0]) + 0.7152 * part(g, ground[1]) + 0.0722 * part(b, ground[2]);
}

/** Contrast ratio of two colors (WCAG 2.2, definition), the first laid over the second. */
export function contrastOf(above: Rgba, below: Rgba): number {
  const white: Rgba = [1, 1, 1, 1];
  const ground = below[3] < 1 ? (below.map((v, i) => v + white[i] * (1 - below[3])) as unknown as Rgba) : below;
  const [a, b] = [luminance(above, ground), luminance(ground, white)];
  return (Math.max(a, b) + 0.05) / (Math.min(a, b) + 0.05);
}

/** Least contrast at which a text can be made out at all; for reading it in comfort 4.5 is asked. */
const leastContrast = 2;

function contrastWarnings(layer: CompiledLayer, { layers, background }: CompiledSheet): Fault[] {
  const out: Fault[] = [];
  layer.rules.forEach((rule, i) => {
    const { label } = rule.symbols;
    const ink = label?.color.constant;
    if (!label || !ink || ink[3] === 0) return;
    const at = layer.source.rules ? `$.layers[${layer.index}].rules[${i}].label` : `$.layers[${layer.index}].label`;
    const halo = label.haloWidth >= 0.75 ? label.halo.constant : undefined;
    const own = rule.symbols.fill?.color.constant;
    const below = layers
      .slice(0, layer.index)
      .flatMap(({ rules }) => rules.map(({ symbols }) => symbols.fill?.color.constant))
      .filter((color) => color !== undefined);
    const grounds =
      halo && halo[3] > 0.5
        ? [halo]
        : own && own[3] > 0.5
          ? [own]
          : [...below, background.constant].filter((c) => c !== undefined && c[3] > 0.5);
    if (!grounds.length) return;
    const best = Math.max(...grounds.map((ground) => contrastOf(ink, ground!)));
    if (best >= leastContrast) return;
    const what = halo ? 'its halo' : own ? 'the fill it stands on' : 'anything below it';
    out.push(
      warning(
        'contrast',
        `the label of layer "${layer.id}" has a contrast of ${best.toFixed(1)} to ${what}`,
        'Make it darker or lighter, or give it a halo; 4.5 and more reads well.',
        at,
      ),
    );
  });
  return out;
}

function unusedWarnings(sheet: Sheet): Fault[] {
  const out: Fault[] = [];
  const used = new Set(sheet.layers.map(({ of }) => of.split('/')[0]));
  for (const name of Object.keys(sheet.data ?? {}))
    if (!used.has(name))
      out.push(
        warning('unused', `no layer draws the data "${name}"`, 'Add a layer for it, or remove it.', `$.data.${name}`),
      );
  return out;
}

/** Names of shapes and icons that a sheet writes out, each with the path where it first stands. */
export function symbolNames(sheet: Sheet): { readonly name: string; readonly at: string }[] {
  const found = new Map<string, string>();
  const take = (value: unknown, at: string): void => {
    if (typeof value === 'string') {
      if (!found.has(value)) found.set(value, at);
      return;
    }
    if (typeof value !== 'object' || value === null || 'is' in value) return;
    const { categories, classes, ramp, other } = value as Record<string, unknown>;
    if (other !== undefined) take(other, `${at}.other`);
    if (categories && !Array.isArray(categories))
      for (const [key, name] of Object.entries(categories)) take(name, `${at}.categories.${key}`);
    for (const name of (classes as { values?: unknown[] } | undefined)?.values ?? [])
      take(name, `${at}.classes.values`);
    for (const [, name] of (ramp as [number, unknown][] | undefined) ?? []) take(name, `${at}.ramp`);
  };
  sheet.layers.forEach((layer, i) =>
    walk(layer, `$.layers[${i}]`, (value, at) => {
      if (typeof value !== 'object' || value === null) return;
      const { icon, shape, name } = value as Record<string, unknown>;
      // A label's icon is an object with a name.
      if (/\.(mark|pattern|marks)$/.test(at)) {
        take(icon, `${at}.icon`);
        if (icon === undefined) take(shape, `${at}.shape`);
      } else if (/\.label\.icon$/.test(at)) take(name, `${at}.name`);
    }),
  );
  return [...found].map(([name, at]) => ({ name, at }));
}

/** The fault of an icon or shape that there is none of. */
export function unknownSymbol(name: string, known: readonly string[], at: string): Fault {
  const near = nearestSpelling(name, known);
  return new Fault(
    'sheet.icon',
    `there is no icon or shape "${name}"`,
    near
      ? `Did you mean "${near}"? Define custom icons under "icons" in the sheet, or pass them to the map.`
      : `Available: ${known.join(', ')}. Define custom icons under "icons" in the sheet, or pass them to the map.`,
    at,
  );
}
