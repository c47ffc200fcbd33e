import { EditDocument, type EditGeometry, type MeasureUnits } from '@flintwright/core/edit';
import { checkOptions, type Corner, type OptionTable } from '../base/check-options.js';
import { Control } from '../controls/control.js';
import type { FlintMap } from '../map/map.js';
import type { PressDetail } from '../markers/markers.js';
import { makeElement } from '../overlay/dom.js';
import { adoptStyles } from '../overlay/adopt-styles.js';
import { englishDraw } from './draw-strings.js';
import { drawStyle } from './draw-style.js';
import { EditHandles } from './edit-handles.js';
import { measureText } from './measure-text.js';
import { PressOwner } from './press-owner.js';
import { Sketch } from './sketch.js';

export interface MeasureOptions {
  /** Initial units; default `metric`. */
  readonly units?: MeasureUnits;
  /** Corner of the map; controls in one corner stack. Default: the upper corner at the inline end. */
  readonly position?: Corner | undefined;
  /** Texts to replace the English ones. */
  readonly strings?: Partial<MeasureStrings>;
}

/** The texts of measuring. */
export interface MeasureStrings {
  readonly measure: string;
  readonly stop: string;
  readonly units: string;
  readonly unitNames: Readonly<Record<MeasureUnits, string>>;
  readonly hint: string;
}

const english: MeasureStrings = {
  measure: 'Measure',
  stop: 'Stop measuring',
  units: 'Units',
  unitNames: { metric: 'metric', imperial: 'imperial', nautical: 'nautical' },
  hint: 'Press along the line to measure; press the first point again to measure an area.',
};

const table: OptionTable<MeasureOptions> = { units: 'text', position: 'corner', strings: 'object' };
const ruler =
  'M2.5 15.5L15.5 2.5L21.5 8.5L8.5 21.5ZM5.3 15.5L8.5 18.7L18.7 8.5L15.5 5.3L13.9 6.9L16 9L14.9 10.1L12.8 8L11.2 9.6L12.4 10.8L11.3 11.9L10.1 10.7L8.5 12.3L10.6 14.4L9.5 15.5L7.4 13.4Z';

/** A button that measures distances, bearings and areas between pressed points, on the ellipsoid. Measurements are not stored. */
export class Measure extends Control {
  private units: MeasureUnits;
  private readonly strings: MeasureStrings;
  private sketch: Sketch | undefined;
  private handles: EditHandles | undefined;
  private readonly panel = makeElement('div', 'flint-draw-say');
  private readonly said = makeElement('p');
  private readonly toggle: HTMLButtonElement;
  private readonly presses: PressOwner;

  /**
   * Adds a measuring button to a map.
   *
   * @param map the map
   * @param options units and texts
   */
  constructor(map: FlintMap, options: MeasureOptions = {}) {
    checkOptions('new Measure', options, table, "new Measure(map, { units: 'nautical' })");
    super(map, 'flint-own flint-measure', { position: options.position });
    adoptStyles(map.host, drawStyle);
    this.presses = new PressOwner(map.host, () => this.stop());
    this.end(() => this.presses.remove());
    this.units = options.units ?? 'metric';
    this.strings = { ...english, ...options.strings };
    const [card, body] = [makeElement('div', 'flint-card'), makeElement('div')];
    this.toggle = this.button(this.strings.measure, ruler, () => (this.sketch ? this.stop() : this.begin()));
    this.toggle.setAttribute('aria-pressed', 'false');
    this.said.setAttribute('role', 'status');
    const choice = makeElement('select');
    choice.setAttribute('aria-label', this.strings.units);
    for (const [value, name] of Object.entries(this.strings.unitNames)) choice.append(new Option(name, value));
    choice.value = this.units;
    this.on(choice, 'change', () => {
      this.units = choice.value as MeasureUnits;
      this.follow();
    });
    this.panel.append(this.said, choice);
    this.panel.hidden = true;
    body.append(this.toggle, this.panel);
    card.append(body);
    this.element.append(card);
    this.on<CustomEvent<PressDetail>>(map, 'press', (event) => {
      if (!this.sketch) return;
      event.preventDefault();
      const { place } = event.detail;
      if (place) void this.sketch.set(place, this.handles!.reach());
    });
    this.on<CustomEvent<PressDetail>>(map, 'dblpress', (event) => {
      if (this.sketch) event.preventDefault();
    });
    this.on<PointerEvent>(map.host, 'pointermove', (event) => {
      if (this.sketch && !(event.target as Element).closest('.flint-control'))
        this.sketch.point(map.toPlace(this.handles!.pixelOf(event)), this.handles!.reach());
    });
    this.on<KeyboardEvent>(map.host, 'keydown', (event) => {
      if (!this.sketch) return;
      if (event.key === 'Escape') this.stop();
      else if (event.key === 'Backspace') this.sketch.back();
      else return;
      event.preventDefault();
    });
    this.end(() => this.stop());
  }

  private begin(): void {
    const { map } = this;
    this.presses.claim();
    const space = map.surface === 'plan' ? 'plane' : 'lonlat';
    const choices = { snap: false, grid: undefined, shared: false };
    this.sketch = new Sketch(new EditDocument([]), space, choices, englishDraw, () => this.follow());
    this.sketch.tool = 'line';
    this.sketch.closes = true;
    // The first place again closes the line to an area, which stays until something new is begun.
    this.sketch.finish = () => {
      this.sketch!.pointer = undefined;
      this.sketch!.tool = 'lasso';
      this.follow();
      return Promise.resolve();
    };
    this.handles = new EditHandles(map, this.sketch, englishDraw, (geometry) => this.text(geometry));
    this.follow();
  }

  /** Takes all that was measured off the map. */
  private stop(): void {
    this.presses.release();
    this.handles?.remove();
    this.sketch = this.handles = undefined;
    this.follow();
  }

  private follow(): void {
    const { sketch, strings } = this;
    this.toggle.setAttribute('aria-pressed', String(sketch !== undefined));
    this.toggle.title = sketch ? strings.stop : strings.measure;
    this.toggle.setAttribute('aria-label', this.toggle.title);
    this.panel.hidden = !sketch;
    this.handles?.later();
    const shape = sketch?.shape();
    this.said.textContent = shape ? this.text(shape) : strings.hint;
  }

  private text(geometry: EditGeometry): string {
    return measureText(geometry, this.sketch!.space, this.units);
  }
}
