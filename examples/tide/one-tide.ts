import type * as Flintwright from 'flintwright';
import type { FlintMap, Marker } from 'flintwright';
import { along } from '../shared/along.js';
import { ChartFrame, compassRose } from './chart-frame.js';
import { style } from './style.js';
import { clock, darkness, isLit, length, TideCurve } from './time.js';

interface Feature {
  readonly id: number;
  readonly properties: Readonly<Record<string, string | number>>;
  readonly geometry: { readonly coordinates: readonly [number, number][] };
}

/** Minutes of the tide that pass in a second, and the steps of those who want no motion. */
const [pace, pause, stride] = [9, 1500, 25];
const play = 'M6 3L21 12L6 21Z';
const halt = 'M5 3H10V21H5ZM14 3H19V21H14Z';

/** Shows a tide of 12 h 25 min on its chart, with a clock to play it and to move through it. */
export async function showOneTide(map: FlintMap, { Rail, ScaleBar }: typeof Flintwright): Promise<void> {
  await map.settled();
  const gauge = (await featuresOf(map, 'gauge'))[0].properties;
  const curve = new TideCurve(String(gauge['heights']).split(' ').map(Number), Number(gauge['every']));
  const chart = new Chart(map, curve, await featuresOf(map, 'sectors'));
  const ferries = new Ferries(map, await featuresOf(map, 'lines'));

  const { host } = map;
  host.classList.add('one-tide');
  const css = new CSSStyleSheet();
  css.replaceSync(style);
  document.adoptedStyleSheets = [...document.adoptedStyleSheets, css];
  const cartouche = made('div', 'cartouche');
  cartouche.append(
    made('h1', '', 'Tessary Reach'),
    made('p', '', 'One tide'),
    made('small', '', 'Soundings in meters below low water'),
  );
  const frame = new ChartFrame(map);
  const panel = new Clock(curve);
  host.append(frame.element, compassRose(map), cartouche, panel.element);
  for (const element of [cartouche, panel.element]) map.keepClear(element);
  // A published page has brought its own.
  if (!host.querySelector('.flint-rail')) new Rail(map);
  if (!host.querySelector('.flint-scale')) new ScaleBar(map, { units: 'nautical' });

  const still = matchMedia('(prefers-reduced-motion: reduce)');
  let minute = 0;
  let running = false;
  let before = 0;
  let steppedAt = 0;
  const show = (at: number) => {
    minute = at;
    chart.show(minute, still.matches);
    ferries.show(minute);
    panel.show(minute);
  };
  const step = (now: number) => {
    const elapsed = before ? Math.min(100, now - before) : 0;
    before = now;
    if (!running) return;
    if (still.matches) {
      if (now - steppedAt > pause) {
        steppedAt = now;
        show((minute + stride) % length);
      }
    } else show((minute + (elapsed / 1000) * pace) % length);
    requestAnimationFrame(step);
  };
  panel.played = () => {
    running = !running;
    panel.run(running);
    before = steppedAt = 0;
    if (running) requestAnimationFrame(step);
  };
  panel.moved = (at) => show(at);
  // Lights flash in the time of the watch, whatever that of the chart.
  const flash = () => {
    chart.flash(performance.now() / 1000, still.matches);
    setTimeout(flash, 100);
  };
  show(Number(new URLSearchParams(location.search).get('minute') ?? 95));
  flash();
}

/** The features of a data entry: in the sheet, or at their address. */
async function featuresOf(map: FlintMap, name: string): Promise<readonly Feature[]> {
  const source = map.sheet.data?.[name]?.features as unknown;
  const collection: unknown =
    typeof source === 'string' ? await (await fetch(new URL(source, location.href))).json() : source;
  return (collection as { features: readonly Feature[] }).features;
}

function made(name: string, className: string, text = ''): HTMLElement {
  const element = document.createElement(name);
  if (className) element.className = className;
  element.textContent = text;
  return element;
}

/** The chart as it is at a minute of the tide. */
class Chart {
  private drawn = -1;
  private isNight: boolean | undefined;
  private readonly day: Readonly<Record<string, string>>;
  private readonly night: Readonly<Record<string, string>>;
  private readonly lit = new Map<number, boolean>();

  constructor(
    private readonly map: FlintMap,
    private readonly curve: TideCurve,
    private readonly sectors: readonly Feature[],
  ) {
    const { palette = {}, dark = {} } = map.sheet;
    this.day = palette;
    this.night = { ...palette, ...dark };
  }

  show(minute: number, isStill: boolean): void {
    const dark = darkness(minute);
    const isNight = dark > 0.5;
    if (isNight !== this.isNight) {
      this.isNight = isNight;
      this.map.colorScheme = isNight ? 'dark' : 'light';
      this.drawn = -1;
    }
    // Three minutes of the tide change the water less than the eye can see.
    const step = Math.floor(minute / (isStill ? 1 : 3));
    if (step === this.drawn) return;
    this.drawn = step;
    const level = this.curve.level(minute);
    const stream = this.curve.stream(minute);
    const { layers } = this.map;
    const color = (above: number) => this.colorOf(level - above, dark);
    const categories = (heights: readonly number[]) =>
      Object.fromEntries(heights.map((above) => [String(above), color(above)]));
    layers.change('depth', { fill: { color: { by: 'above', categories: categories(depths) } } });
    layers.change('drying', { fill: { color: { by: 'above', categories: categories(heights) } } });
    layers.change('currents', {
      mark: {
        size: { is: `rate * ${(5 + 17 * Math.abs(stream)).toFixed(1)}` },
        rotation: { is: stream < 0 ? 'ebb + 180' : 'ebb' },
        opacity: Math.min(0.9, Math.abs(stream) * 3),
      },
    });
  }

  /** Lights the sectors by night: in their rhythm, or all the time for those who want no motion. */
  flash(seconds: number, isStill: boolean): void {
    this.sectors.forEach(({ id, properties }, i) => {
      const lit = this.isNight === true && (isStill || isLit(String(properties['light']), seconds + i * 0.37));
      if (lit === (this.lit.get(id) ?? false)) return;
      this.lit.set(id, lit);
      this.map.flag({ data: 'sectors', key: String(id) }, 'lit', lit);
    });
  }

  /** The color of a bed so far below the water, or above it where that is negative. */
  private colorOf(depth: number, dark: number): string {
    const of = (name: string) => mixed(this.day[name], this.night[name], dark);
    if (depth < 0) return mixed(of('wet'), of('dry'), Math.min(1, -depth / 0.9));
    const i = shades.findIndex(([from]) => depth < from);
    if (i <= 0) return of(i ? shades[shades.length - 1][1] : shades[0][1]);
    const [[low, a], [high, b]] = [shades[i - 1], shades[i]];
    return mixed(of(a), of(b), (depth - low) / (high - low));
  }
}

const depths = [-200, -100, -50, -20, -10, -5, -2];
const heights = [-1, -0.5, 0, 0.25, 0.5, 0.75, 1, 1.25, 1.5, 1.75, 2, 2.25, 2.5, 2.75];
/** Depths in meters, and the colors there. */
const shades: readonly (readonly [number, string])[] = [
  [0, 'd2'],
  [2.2, 'd5'],
  [5.5, 'd10'],
  [11, 'd20'],
  [22, 'd50'],
  [60, 'd100'],
  [210, 'd200'],
];

/** A color between two in hexadecimal. */
function mixed(a: string, b: string, share: number): string {
  const part = (hex: string, i: number) => Number.parseInt(hex.slice(i, i + 2), 16);
  return `#${[1, 3, 5]
    .map((i) =>
      Math.round(part(a, i) + (part(b, i) - part(a, i)) * share)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;
}

/** The ferries, which go to and fro along their lines. */
class Ferries {
  private readonly boats: {
    readonly path: readonly [number, number][];
    readonly minutes: number;
    readonly marker: Marker;
  }[];

  constructor(map: FlintMap, lines: readonly Feature[]) {
    this.boats = lines.map(({ properties, geometry }) => ({
      path: geometry.coordinates,
      minutes: Number(properties['minutes']),
      marker: map.markers.add({
        at: geometry.coordinates[0],
        icon: 'ferry',
        color: '#c2402a',
        size: 26,
        title: String(properties['name']),
      }),
    }));
  }

  show(minute: number): void {
    this.boats.forEach(({ path, minutes, marker }, i) => {
      // Ten minutes at the quay after each crossing.
      const round = 2 * (minutes + 10);
      const at = (minute + i * 17) % round;
      const out = Math.min(1, at / minutes);
      const back = Math.max(0, Math.min(1, (at - minutes - 10) / minutes));
      marker.change({ at: along(path, out - back) });
    });
  }
}

/** The panel with the curve of the tide: a button that plays it, and a slider. */
class Clock {
  readonly element = made('section', 'tide-clock');
  played: () => void = () => {};
  moved: (minute: number) => void = () => {};
  private readonly button = document.createElement('button');
  private readonly slider = document.createElement('input');
  private readonly dot = document.createElement('i');
  private readonly output = document.createElement('output');
  private readonly time = document.createElement('b');
  private readonly words = document.createElement('span');

  constructor(private readonly curve: TideCurve) {
    this.element.setAttribute('aria-label', 'Tide');
    this.button.type = 'button';
    this.run(false);
    this.button.addEventListener('click', () => this.played());
    const { heights: all } = curve;
    const course = made('div', 'tide-course');
    const points = all.map(
      (height, i) => `${((i / (all.length - 1)) * 100).toFixed(2)} ${this.heightOf(height).toFixed(2)}`,
    );
    course.innerHTML = `<svg viewBox="0 0 100 46" preserveAspectRatio="none" aria-hidden="true"><path class="water" d="M0 46L${points.join('L')}L100 46Z"/><path class="curve" d="M${points.join('L')}"/></svg>`;
    Object.assign(this.slider, { type: 'range', min: '0', max: String(length), step: '1' });
    this.slider.setAttribute('aria-label', 'Time of the tide');
    this.slider.addEventListener('input', () => this.moved(this.slider.valueAsNumber));
    course.append(this.dot, this.slider);
    this.output.append(this.time, this.words);
    this.element.append(this.button, course, this.output);
  }

  run(running: boolean): void {
    this.button.setAttribute('aria-label', running ? 'Pause' : 'Play');
    this.button.innerHTML = `<svg viewBox="0 0 24 24" aria-hidden="true"><path d="${running ? halt : play}"/></svg>`;
  }

  show(minute: number): void {
    const level = this.curve.level(minute);
    const stream = this.curve.stream(minute);
    const name = Math.abs(stream) < 0.12 ? 'slack' : stream > 0 ? 'ebb' : 'flood';
    if (document.activeElement !== this.slider || this.slider.valueAsNumber !== Math.round(minute))
      this.slider.value = String(Math.round(minute));
    this.time.textContent = clock(minute);
    this.words.textContent = `${level.toFixed(1)} m · ${name}`;
    this.slider.setAttribute('aria-valuetext', `${clock(minute)}, ${level.toFixed(1)} m, ${name}`);
    this.dot.style.left = `${(minute / length) * 100}%`;
    this.dot.style.top = `${this.heightOf(level)}px`;
  }

  /** Where a height lies on the panel, in its pixels. */
  private readonly heightOf = (height: number) => 41 - ((height - 0.1) / 2.8) * 36;
}
