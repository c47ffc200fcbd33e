// Simple choices without text: which layers show, and for one of them its color, or colors by an attribute, width, size, icon and label.
import type { FlintMap, SheetLayer, SheetValue } from 'flintwright';

/** Color schemes on offer: some for classes of a number, some for categories. */
const schemes = { classes: ['YlGnBu', 'Oranges', 'Purples', 'Viridis'], categories: ['Dark2', 'Set2', 'Paired'] };

interface Field {
  readonly name: string;
  readonly isNumber: boolean;
  readonly values: readonly string[];
}

const property = (name: string) => `"${name.replaceAll('"', '""')}"`;

function make<K extends keyof HTMLElementTagNameMap>(tag: K, text = ''): HTMLElementTagNameMap[K] {
  const element = document.createElement(tag);
  element.textContent = text;
  return element;
}

/** A color as `#rrggbb`, as the browser understands it. */
function hexOf(color: string): string {
  const context = document.createElement('canvas').getContext('2d')!;
  context.fillStyle = color;
  return context.fillStyle.slice(0, 7);
}

/** Colors by an attribute, as far as they are looked at here. */
interface Scale {
  readonly by?: string;
  readonly scheme?: string;
  readonly classes?: { readonly scheme?: string };
}

/** The parts of a layer that have a color. */
type Part = 'fill' | 'stroke' | 'mark';
const partsOf = (layer: SheetLayer): Part[] =>
  (['fill', 'mark', 'stroke'] as const).filter((part) => layer[part] !== undefined);

/** One part of a layer as an object; the topmost of several strokes. */
function partOf(layer: SheetLayer, part: Part): Readonly<Record<string, unknown>> {
  const value: unknown = layer[part];
  const one: unknown = Array.isArray(value) ? value.at(-1) : value;
  return typeof one === 'object' && one !== null ? (one as Record<string, unknown>) : { color: one };
}

export class StylePanel {
  private chosen = '';
  private drawn = '';

  /**
   * Makes it.
   *
   * @param map whose layers it shows
   * @param list element that lists the layers
   * @param form element that holds the choices for one
   */
  constructor(
    private readonly map: FlintMap,
    private readonly list: HTMLElement,
    private readonly form: HTMLElement,
  ) {
    map.addEventListener('sheetchange', () => this.follow());
    // The attributes of a layer are known once its data has come.
    map.addEventListener('datachange', () => this.refresh());
    this.follow();
  }

  /** Shows the choices anew, as attributes may have come meanwhile. */
  refresh(): void {
    void this.choose(this.chosen);
  }

  /** The layers that people know by a name, the topmost first. */
  private get layers(): SheetLayer[] {
    return this.map.layers.all.filter(({ title }) => title !== undefined).toReversed();
  }

  private follow(): void {
    const { layers } = this;
    const shown = JSON.stringify(layers.map(({ id, title, visible }) => [id, title, visible]));
    if (shown === this.drawn) return;
    const before = this.drawn ? (JSON.parse(this.drawn) as [string][]).map(([id]) => id) : undefined;
    this.drawn = shown;
    // What has just come is what somebody wants to style.
    const fresh = before && layers.find(({ id }) => !before.includes(id));
    if (fresh) this.chosen = fresh.id;
    if (!layers.some(({ id }) => id === this.chosen)) this.chosen = layers[0]?.id ?? '';
    const { activeElement } = document;
    const focused = this.list.contains(activeElement) ? activeElement?.getAttribute('data-key') : undefined;
    this.list.replaceChildren(...layers.map((layer) => this.row(layer)));
    if (focused) this.list.querySelector<HTMLElement>(`[data-key="${CSS.escape(focused)}"]`)?.focus();
    void this.choose(this.chosen);
  }

  private row({ id, title, visible = true }: SheetLayer): HTMLElement {
    const [item, box, button] = [make('li'), make('input'), make('button', title)];
    box.type = 'checkbox';
    box.checked = visible;
    box.dataset['key'] = `show ${id}`;
    box.setAttribute('aria-label', `Show ${title}`);
    box.addEventListener('change', () => this.map.layers.show(id, box.checked));
    button.type = 'button';
    button.dataset['key'] = id;
    button.setAttribute('aria-pressed', String(id === this.chosen));
    button.addEventListener('click', () => void this.choose(id));
    item.append(box, button);
    return item;
  }

  /** Shows the choices for a layer. */
  private async choose(id: string): Promise<void> {
    this.chosen = id;
    for (const button of this.list.querySelectorAll('button'))
      button.setAttribute('aria-pressed', String(button.dataset['key'] === id));
    const layer = this.map.layers.find(id);
    if (!layer) {
      this.form.replaceChildren();
      return;
    }
    const fields = await this.fieldsOf(layer);
    if (this.chosen !== id || !this.map.layers.find(id)) return;
    const parts = partsOf(layer);
    this.form.replaceChildren(
      make('h3', layer.title),
      ...(parts.length ? [this.colors(id, layer, parts[0], fields)] : []),
      ...(layer.stroke === undefined ? [] : [this.range(id, 'Width', 'stroke', 'width', [0.25, 12, 0.25], 1)]),
      ...(layer.mark === undefined
        ? []
        : [this.range(id, 'Size', 'mark', 'size', [2, 60, 1], 8), this.icon(id, layer)]),
      this.opacity(id, layer),
      ...(fields.length ? [this.label(id, layer, fields)] : []),
    );
  }

  /** The attributes of what a layer draws; none for tiles, whose features come and go. */
  private async fieldsOf({ of }: SheetLayer): Promise<readonly Field[]> {
    const [data] = of.split('/');
    if (this.map.sheet.data?.[data]?.features === undefined) return [];
    let collection: { readonly features: readonly { readonly properties: Readonly<Record<string, unknown>> | null }[] };
    try {
      collection = await this.map.features(data);
    } catch {
      // Data that could not be had is told of by the map itself.
      return [];
    }
    const found = new Map<string, { numbers: number; filled: number; values: Set<string> }>();
    for (const { properties } of collection.features)
      for (const [name, value] of Object.entries(properties ?? {})) {
        if (value === null || typeof value === 'object' || name.startsWith('flint_')) continue;
        if (!found.has(name)) found.set(name, { numbers: 0, filled: 0, values: new Set() });
        const field = found.get(name)!;
        field.filled++;
        if (typeof value === 'number') field.numbers++;
        if (field.values.size < 13) field.values.add(String(value));
      }
    return [...found].map(([name, { numbers, filled, values }]) => ({
      name,
      isNumber: numbers === filled,
      values: [...values].toSorted(),
    }));
  }

  private labelled(text: string, ...inputs: readonly HTMLElement[]): HTMLElement {
    const label = make('label', text);
    label.append(...inputs);
    return label;
  }

  private select(
    choices: readonly (readonly [value: string, text: string])[],
    value: string,
    chosen: (value: string) => void,
  ): HTMLSelectElement {
    const select = make('select');
    select.append(...choices.map(([id, text]) => new Option(text, id)));
    select.value = value;
    select.addEventListener('change', () => chosen(select.value));
    return select;
  }

  private change(id: string, part: Part, values: object): void {
    this.map.layers.change(id, { [part]: values });
  }

  /** One color, or colors by an attribute. */
  private colors(id: string, layer: SheetLayer, part: Part, fields: readonly Field[]): HTMLElement {
    const box = make('div');
    const { color } = partOf(layer, part);
    const scale = typeof color === 'object' && color !== null ? (color as Scale) : undefined;
    const by = scale?.by?.replace(/^"(.*)"$/, '$1').replaceAll('""', '"') ?? '';
    const usable = fields.filter(({ isNumber, values }) => isNumber || values.length <= 12);
    const put = (name: string, scheme?: string) => {
      const field = usable.find((one) => one.name === name);
      this.change(id, part, { color: field ? scaleOf(field, scheme) : '#2f6f87' });
      void this.choose(id);
    };
    if (!scale) {
      const input = make('input');
      input.type = 'color';
      const plain = typeof color === 'string' ? color : '#444444';
      input.value = hexOf(plain.startsWith('@') ? (this.map.sheet.palette?.[plain.slice(1)] ?? '#444444') : plain);
      input.addEventListener('input', () => this.change(id, part, { color: input.value }));
      box.append(this.labelled('Color', input));
    }
    if (usable.length) {
      const names = usable.map(({ name }) => [name, name] as const);
      box.append(
        this.labelled(
          'Color by',
          this.select([['', 'one color'], ...names], by, (name) => put(name)),
        ),
      );
    }
    const field = usable.find(({ name }) => name === by);
    if (field) {
      const list = field.isNumber ? schemes.classes : schemes.categories;
      const choices = list.map((name) => [name, name] as const);
      box.append(
        this.labelled(
          'Colors',
          this.select([['', 'as they are'], ...choices], scale?.scheme ?? scale?.classes?.scheme ?? '', (name) =>
            put(by, name || undefined),
          ),
        ),
      );
    }
    return box;
  }

  private range(
    id: string,
    text: string,
    part: 'stroke' | 'mark',
    key: string,
    [min, max, step]: readonly [number, number, number],
    usual: number,
  ): HTMLElement {
    const value = partOf(this.map.layers.require(id), part)[key];
    return this.slider(text, [min, max, step], typeof value === 'number' ? value : usual, (now) =>
      this.change(id, part, { [key]: now }),
    );
  }

  private opacity(id: string, { opacity }: SheetLayer): HTMLElement {
    const value = typeof opacity === 'number' ? opacity : 1;
    return this.slider('Opacity', [0, 1, 0.05], value, (now) => this.map.layers.change(id, { opacity: now }));
  }

  private slider(
    text: string,
    [min, max, step]: readonly [number, number, number],
    value: number,
    moved: (value: number) => void,
  ): HTMLElement {
    const [input, output] = [make('input'), make('output', String(value))];
    Object.assign(input, {
      type: 'range',
      min: String(min),
      max: String(max),
      step: String(step),
      value: String(value),
    });
    input.addEventListener('input', () => {
      output.value = input.value;
      moved(Number(input.value));
    });
    return this.labelled(text, input, output);
  }

  private icon(id: string, layer: SheetLayer): HTMLElement {
    const { icon, shape } = partOf(layer, 'mark');
    const { own, names } = this.map.icons;
    const choices = [...own, ...names.filter((name) => !own.includes(name))].map((name) => [name, name] as const);
    const name = typeof icon === 'string' ? icon : typeof shape === 'string' ? shape : 'circle';
    return this.labelled(
      'Icon',
      this.select(choices, name, (chosen) => this.change(id, 'mark', { icon: chosen })),
    );
  }

  private label(id: string, { label }: SheetLayer, fields: readonly Field[]): HTMLElement {
    const text = (label as { text?: { is?: unknown } } | undefined)?.text?.is;
    const name = typeof text === 'string' ? text.replace(/^"(.*)"$/, '$1') : '';
    const choices = fields.map((field) => [field.name, field.name] as const);
    return this.labelled(
      'Label',
      this.select([['', 'none'], ...choices], name, (chosen) =>
        this.map.layers.change(id, {
          label: chosen
            ? { text: { is: property(chosen) }, color: '#22303a', halo: { color: '#f7f5ef', width: 1.6 } }
            : null,
        }),
      ),
    );
  }
}

/** Colors by an attribute: classes of a number, or one for each word. */
function scaleOf({ name, isNumber, values }: Field, scheme?: string): SheetValue<string> {
  return isNumber
    ? { by: property(name), classes: { count: 5, method: 'quantile', scheme: scheme ?? 'YlGnBu' }, title: name }
    : { by: property(name), categories: values, scheme: scheme ?? 'Dark2', title: name };
}
