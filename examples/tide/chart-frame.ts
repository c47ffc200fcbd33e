import type { FlintMap } from 'flintwright';

const svgNamespace = 'http://www.w3.org/2000/svg';
/** Steps of a frame in minutes of arc, and how many parts each has. */
const steps = [0.5, 1, 2, 5, 10, 30, 60];
/** Pixels from one label to the next, at least. */
const leastGap = 84;
/** Width of the band with the ticks, and of the room for the labels outside it. */
const band = 7;

function make(name: string, attributes: Record<string, string | number>): SVGElement {
  const element = document.createElementNS(svgNamespace, name);
  for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, String(value));
  return element;
}

/** Degrees and minutes of a place on a border, as charts print them. */
function degrees(minutes: number, letters: string): string {
  const whole = Math.abs(Math.round(minutes * 10) / 10);
  const rest = Math.round((whole % 60) * 10) / 10;
  return `${Math.floor(whole / 60)}°${String(rest).padStart(2, '0')}′${letters[minutes < 0 ? 1 : 0]}`;
}

/**
 * A double neat line around the map, with a band of minutes that are dark and light in turn, and labels in degrees. It follows the view, a turned
 * one too.
 */
export class ChartFrame {
  readonly element = make('svg', { class: 'chart-frame', 'aria-hidden': 'true' });

  constructor(private readonly map: FlintMap) {
    map.addEventListener('viewchange', () => this.draw());
    new ResizeObserver(() => this.draw()).observe(map.host);
  }

  private draw(): void {
    const { clientWidth: width, clientHeight: height } = this.map.host;
    if (!width || !height) return;
    const edge = width < 600 ? 15 : 20;
    const [left, top, right, bottom] = [edge, edge, width - edge, height - edge];
    const parts: SVGElement[] = [
      make('path', { class: 'margin', d: `M0 0H${width}V${height}H0ZM${left} ${top}V${bottom}H${right}V${top}Z` }),
    ];
    const sides = [
      { from: [left, top], to: [right, top], of: 0, letters: 'EW' },
      { from: [left, bottom], to: [right, bottom], of: 0, letters: 'EW' },
      { from: [left, bottom], to: [left, top], of: 1, letters: 'NS' },
      { from: [right, bottom], to: [right, top], of: 1, letters: 'NS' },
    ] as const;
    sides.forEach(({ from, to, of, letters }, i) => {
      const values = this.along(from, to, of);
      if (!values) return;
      const length = of ? bottom - top : right - left;
      const span = Math.abs(values[values.length - 1] - values[0]);
      const step = steps.find((one) => (length * one) / span >= leastGap) ?? 60;
      const small = step / (step === 0.5 || step === 1 || step === 10 ? 5 : step === 2 ? 4 : step === 30 ? 6 : 5);
      // Bands lie outside the inner line: above, below, to the left, to the right.
      const out = [
        [0, -1],
        [0, 1],
        [-1, 0],
        [1, 0],
      ][i];
      const first = Math.ceil(Math.min(...values) / small);
      const last = Math.floor(Math.max(...values) / small);
      const place = (value: number) => this.placeOf(values, value, from, to);
      for (let k = first - 1; k <= last; k++) {
        if (k % 2) continue;
        const [ax, ay] = place(k * small);
        const [bx, by] = place((k + 1) * small);
        parts.push(
          make('path', {
            class: 'minute',
            d: `M${ax} ${ay}L${bx} ${by}L${bx + out[0] * band * 0.5} ${by + out[1] * band * 0.5}L${ax + out[0] * band * 0.5} ${ay + out[1] * band * 0.5}Z`,
          }),
        );
      }
      for (let k = Math.ceil((first * small) / step); k * step <= last * small; k++) {
        const [x, y] = place(k * step);
        parts.push(make('path', { class: 'tick', d: `M${x} ${y}l${out[0] * band} ${out[1] * band}` }));
        const near = of ? Math.min(y - top, bottom - y) : Math.min(x - left, right - x);
        if (edge < 18 || near < 34) continue;
        const text = make('text', {
          x: x + out[0] * (band + 5.5),
          y: y + out[1] * (band + 5.5),
          ...(of ? { transform: `rotate(-90 ${x + out[0] * (band + 5.5)} ${y})` } : {}),
        });
        text.textContent = degrees(k * step, letters);
        parts.push(text);
      }
    });
    parts.push(
      make('rect', { class: 'line', x: left, y: top, width: right - left, height: bottom - top }),
      make('rect', {
        class: 'line outer',
        x: left - band,
        y: top - band,
        width: right - left + 2 * band,
        height: bottom - top + 2 * band,
      }),
    );
    this.element.replaceChildren(...parts);
  }

  /** Minutes of longitude or latitude along an edge of the map, at equal distances; undefined where it leaves the world. */
  private along(from: readonly [number, number], to: readonly [number, number], of: 0 | 1): number[] | undefined {
    const out: number[] = [];
    for (let i = 0; i <= 24; i++) {
      const place = this.map.toPlace([from[0] + ((to[0] - from[0]) * i) / 24, from[1] + ((to[1] - from[1]) * i) / 24]);
      if (!place) return undefined;
      out.push(place[of] * 60);
    }
    return out;
  }

  /** Where a value lies between two ends of an edge. */
  private placeOf(
    values: readonly number[],
    value: number,
    from: readonly [number, number],
    to: readonly [number, number],
  ): [number, number] {
    let i = 0;
    while (i < values.length - 2 && (values[i + 1] - value) * (values[0] - value) > 0) i++;
    const t = Math.max(0, Math.min(1, (i + (value - values[i]) / (values[i + 1] - values[i])) / (values.length - 1)));
    return [from[0] + (to[0] - from[0]) * t, from[1] + (to[1] - from[1]) * t];
  }
}

/** A compass rose of sixteen points, which turns with the map. */
export function compassRose(map: FlintMap): SVGElement {
  const rose = make('svg', { class: 'rose', viewBox: '-60 -60 120 120', 'aria-hidden': 'true' });
  const turned = make('g', {});
  for (let k = 0; k < 72; k++)
    turned.append(
      make('path', { class: 'tick', transform: `rotate(${k * 5})`, d: `M0 -50v${k % 18 ? (k % 2 ? 2.4 : 4) : 6}` }),
    );
  turned.append(make('circle', { class: 'ring', r: 50 }), make('circle', { class: 'ring', r: 43 }));
  for (const [count, offset, long, wide] of [
    [8, 22.5, 26, 4],
    [4, 45, 32, 6],
    [4, 0, 42, 8],
  ] as const)
    for (let k = 0; k < count; k++) {
      const turn = offset + (k * 360) / count;
      const point = make('g', { transform: `rotate(${turn})` });
      point.append(
        make('path', { class: 'dark', d: `M0 0L${wide} ${-wide}L0 ${-long}Z` }),
        make('path', { class: 'pale', d: `M0 0L${-wide} ${-wide}L0 ${-long}Z` }),
      );
      turned.append(point);
    }
  const north = make('text', { y: -53 });
  north.textContent = 'N';
  turned.append(north);
  rose.append(turned);
  const turn = () => turned.setAttribute('transform', `rotate(${-(map.view.bearing ?? 0)})`);
  map.addEventListener('viewchange', turn);
  turn();
  return rose;
}
