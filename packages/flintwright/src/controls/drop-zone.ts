import { asFault, type SheetLayer } from '@flintwright/core';
import type { FileWarning } from '@flintwright/core/files';
import { isSidecar } from '@flintwright/core/internal';
import { fetchPart } from '../base/fetch-part.js';
import { checkOptions, type Corner, type OptionTable } from '../base/check-options.js';
import type { ReadFile, ReadLayer } from '../files/messages.js';
import { isPicture } from '../files/icon-name.js';
import { readFile } from '../files/read-file.js';
import type { FlintMap } from '../map/map.js';
import { makeElement } from '../overlay/dom.js';
import { adoptStyles } from '../overlay/adopt-styles.js';
import { Control } from './control.js';
import { dropZoneStyle } from './drop-zone-style.js';
import { lookOf } from './layer-look.js';

export { readFile, type ReadFileOptions } from '../files/read-file.js';
export type { FileField, ReadFile, ReadLayer } from '../files/messages.js';

/** A layer that was added from a file. */
export interface AddedFile {
  /** Id of the layer. */
  readonly id: string;
  readonly layer: ReadLayer;
}

export interface DropZoneOptions {
  /** Largest file in bytes; default 256 MiB. Larger files are refused. */
  readonly most?: number;
  /** Whether the map moves to the added features; default true. */
  readonly frame?: boolean;
  /** Called for each added layer. */
  readonly added?: (added: AddedFile) => void;
  /** Called with the name of each icon that was added from a picture. */
  readonly icon?: (name: string) => void;
  /** Corner of the map; controls in one corner stack. Default: the middle of the upper edge. */
  readonly position?: Corner | undefined;
  /** Texts to replace the English ones. */
  readonly strings?: Partial<DropStrings>;
}

/** Texts of a drop zone. */
export interface DropStrings {
  readonly add: string;
  readonly drop: string;
  readonly formats: string;
  readonly reading: (name: string) => string;
  readonly cancel: string;
  readonly undo: string;
  readonly close: string;
  readonly large: (megabytes: number) => string;
  readonly system: string;
  readonly systems: string;
  readonly apply: string;
  readonly nothing: string;
  readonly remarks: (count: number) => string;
  readonly icon: (name: string, size: readonly [number, number]) => string;
  readonly cleaned: { readonly message: string; readonly hint: string };
  readonly show: string;
  readonly found: (count: number, kind: 'point' | 'line' | 'polygon' | 'none') => string;
}

const english: DropStrings = {
  add: 'Add a file',
  drop: 'Drop files to add them to the map',
  formats: 'GeoJSON, CSV, KML, GPX, shapefile, GeoPackage and more; SVG and PNG files become icons',
  reading: (name) => `Reading ${name}`,
  cancel: 'Cancel',
  undo: 'Remove',
  close: 'Dismiss',
  large: (megabytes) => `The file is larger than ${megabytes} MB. Cut it into tiles with flintwright tile.`,
  system: 'Coordinate system: a code such as EPSG:32625, or part of its name',
  systems: 'Matching systems',
  apply: 'Apply',
  nothing: 'The file contains no geometries.',
  remarks: (count) => `${count} remark${count === 1 ? '' : 's'}`,
  icon: (name, [width, height]) => `Icon "${name}" · ${Math.round(width)} × ${Math.round(height)}`,
  cleaned: {
    message: 'The SVG contained scripts, event handlers or external references',
    hint: 'They were removed; the rest is drawn.',
  },
  show: 'Show as',
  found: (count, kind) => {
    const words = { point: 'point', line: 'line', polygon: 'area', none: 'row' };
    return `${count.toLocaleString('en')} ${words[kind]}${count === 1 ? '' : 's'}`;
  },
};

const plus = 'M11 4H13V11H20V13H13V20H11V13H4V11H11Z';
const table: OptionTable<DropZoneOptions> = {
  most: 'number',
  frame: 'switch',
  added: 'function',
  icon: 'function',
  position: 'corner',
  strings: 'object',
};

/**
 * A drop target for files. It reports what was read, repaired and refused, adds a layer with a suitable style, moves to it, and offers
 * Undo. A button opens the file dialog for keyboard users.
 */
export class DropZone extends Control {
  private readonly strings: DropStrings;
  private readonly list: HTMLElement;
  private readonly veil: HTMLElement;
  private readonly reads = new Set<AbortController>();
  /** How deep a drag is within the elements of the map. */
  private depth = 0;
  private turn = 0;

  /**
   * Adds a drop zone that covers the whole map.
   *
   * @param map the map
   * @param options limits, texts, and what happens with a layer
   */
  constructor(
    map: FlintMap,
    private readonly options: DropZoneOptions = {},
  ) {
    checkOptions('new DropZone', options, table, 'new DropZone(map)');
    super(map, 'flint-files', { position: options.position, seat: 'top' });
    adoptStyles(map.host, dropZoneStyle);
    this.strings = { ...english, ...options.strings };
    const { strings } = this;
    const card = makeElement('div', 'flint-card');
    const body = makeElement('div');
    const input = makeElement('input');
    input.type = 'file';
    input.multiple = true;
    input.hidden = true;
    const button = this.button(strings.add, plus, () => input.click());
    button.append(makeElement('span', '', strings.add));
    body.append(button, input);
    card.append(body);
    this.list = makeElement('div', 'flint-file-list');
    this.list.setAttribute('aria-live', 'polite');
    this.veil = makeElement('div', 'flint-veil');
    this.veil.hidden = true;
    const said = makeElement('div');
    said.append(makeElement('b', '', strings.drop), makeElement('span', '', strings.formats));
    this.veil.append(said);
    this.element.append(card, this.list);
    map.host.append(this.veil);
    this.end(() => this.veil.remove());
    this.end(() => this.reads.forEach((read) => read.abort()));
    this.on(input, 'change', () => {
      this.take([...(input.files ?? [])]);
      input.value = '';
    });
    this.listenToDrags();
  }

  private listenToDrags(): void {
    const { host } = this.map;
    const holdsFiles = ({ dataTransfer }: DragEvent) => dataTransfer?.types.includes('Files') ?? false;
    const show = (on: boolean) => (this.veil.hidden = !on);
    this.on<DragEvent>(host, 'dragenter', (event) => {
      if (!holdsFiles(event)) return;
      event.preventDefault();
      this.depth++;
      show(true);
    });
    this.on<DragEvent>(host, 'dragover', (event) => {
      if (!holdsFiles(event)) return;
      event.preventDefault();
      event.dataTransfer!.dropEffect = 'copy';
    });
    this.on<DragEvent>(host, 'dragleave', (event) => {
      if (!holdsFiles(event)) return;
      this.depth = Math.max(0, this.depth - 1);
      if (!this.depth) show(false);
    });
    this.on<DragEvent>(host, 'drop', (event) => {
      if (!holdsFiles(event)) return;
      event.preventDefault();
      this.depth = 0;
      show(false);
      this.take([...event.dataTransfer!.files]);
    });
  }

  /** Reads files as if they had been dropped. Files of one shapefile are read together. @param files dropped or chosen files */
  take(files: readonly File[]): void {
    const pictures = files.filter(isPicture);
    for (const file of pictures) void this.addIcon(file);
    const others = files.filter((file) => !pictures.includes(file));
    const shapes = others.filter(({ name }) => /\.shp$/i.test(name));
    const mains = others.filter(({ name }) => !shapes.some((shape) => isSidecar(name, shape.name)));
    for (const file of mains) void this.add(file, files);
  }

  private async add(file: File, siblings: readonly File[], crs?: string, card = this.card(file.name)): Promise<void> {
    const { strings } = this;
    const most = this.options.most ?? 2 ** 28;
    const read = new AbortController();
    this.reads.add(read);
    const progress = card.busy(() => read.abort());
    try {
      if (file.size > most) {
        card.fail(strings.large(Math.round(most / 1e6)), '');
        return;
      }
      const { signal } = read;
      const answer = await readFile(file, { siblings, signal, progress, ...(crs === undefined ? {} : { crs }) });
      this.show(answer, card, (system) => void this.add(file, siblings, system, card));
    } catch (error) {
      if (signalled(read, error)) card.remove();
      else {
        const { code, message, hint } = asFault(error, 'file.read', 'Check the file.');
        card.fail(message, hint);
        if (code.startsWith('crs.')) card.ask((system) => void this.add(file, siblings, system, card), crs);
      }
    } finally {
      this.reads.delete(read);
    }
  }

  /** Makes an icon of the sheet of a picture, and offers it to the layers that show marks. */
  private async addIcon(file: File): Promise<void> {
    const { map, strings } = this;
    const card = this.card(file.name);
    try {
      const { readIcon } = await fetchPart(() => import('../files/icon-file.js'));
      const read = await readIcon(file);
      let { name } = read;
      for (let k = 2; map.icons.names.includes(name); k++) name = `${read.name} ${k}`;
      await map.icons.add(name, read.icon);
      const warnings = read.taken.length
        ? [{ code: 'icon.cleaned', ...strings.cleaned, count: read.taken.length, places: read.taken }]
        : [];
      card.done(strings.icon(name, read.size), warnings);
      card.picture(read.icon.source);
      this.offer(name, card);
      this.options.icon?.(name);
    } catch (error) {
      const { message, hint } = asFault(error, 'icon.picture', 'Check the picture.');
      card.fail(message, hint);
    }
  }

  /** Asks which layer is to show an icon; taking the icon off gives the layer its marks back. */
  private offer(name: string, card: FileCard): void {
    const { map, strings } = this;
    const layers = () =>
      map.layers.all.filter(({ mark }) => mark !== undefined).map(({ id, title }) => [id, title ?? id] as const);
    const before = new Map<string, SheetLayer['mark']>();
    const restore = () => {
      for (const [id, mark] of before)
        if (map.layers.find(id)) map.layers.change(id, { mark: { icon: null, size: 8, ...mark } });
      before.clear();
    };
    card.choose(strings.show, layers, (id) => {
      restore();
      if (!id) return;
      const { mark } = map.layers.require(id);
      before.set(id, mark);
      map.layers.change(id, { mark: { icon: name, size: 26 } });
    });
    card.undo(() => {
      restore();
      map.icons.remove(name);
    });
  }

  /** Lays the layers of a file on the map, and says so. */
  private show({ format, layers, warnings }: ReadFile, card: FileCard, retry: (crs: string) => void): void {
    const { map, strings, options } = this;
    const nameless = layers.some(({ crs }) => crs === undefined);
    const placed = nameless ? [] : layers.filter(({ bounds }) => bounds);
    const kinds = ['polygon', 'line', 'point', 'none'] as const;
    const counts = kinds.flatMap((kind) => {
      const count = layers.reduce((sum, layer) => sum + layer.kinds[kind], 0);
      return count ? [strings.found(count, kind)] : [];
    });
    const systems = [...new Set(layers.map(({ crs }) => crs).filter((crs) => crs !== undefined))];
    const ids = placed.map((layer) => this.lay(layer));
    const remarks = warnings.length ? strings.remarks(warnings.length) : '';
    card.done([format, counts.join(', '), systems.join(', '), remarks].filter(Boolean).join(' · '), warnings);
    if (nameless) card.ask(retry);
    else if (!placed.length) card.note(strings.nothing);
    if (ids.length)
      card.undo(() => {
        for (const id of ids) if (map.layers.find(id)) map.layers.remove(id);
      });
    const boxes = placed.map(({ bounds }) => bounds!);
    if (boxes.length && (options.frame ?? true)) {
      const edge = (k: number, pick: (...values: number[]) => number) => pick(...boxes.map((box) => box[k]));
      void map.frame(spread([edge(0, Math.min), edge(1, Math.min), edge(2, Math.max), edge(3, Math.max)]), {
        zoom: 16,
      });
    }
  }

  private lay(layer: ReadLayer): string {
    const { map } = this;
    const plain =
      layer.name
        .normalize('NFKD')
        .replace(/[^\w-]+/g, '-')
        .replace(/^-+|-+$/g, '') || 'file';
    let id = plain;
    for (let k = 2; map.layers.find(id); k++) id = `${plain}-${k}`;
    map.layers.add({ id, title: layer.name, of: { features: layer.features }, ...lookOf(layer, this.turn++) });
    this.options.added?.({ id, layer });
    return id;
  }

  private card(name: string): FileCard {
    const card = new FileCard(name, this.strings);
    // What came before folds up, so that the map is seen.
    for (const other of this.list.querySelectorAll('details')) other.open = false;
    this.list.prepend(card.element);
    return card;
  }
}

/** A box with some room where it is but one place. */
const spread = ([w, s, e, n]: readonly [number, number, number, number]): [number, number, number, number] =>
  w === e && s === n ? [w - 0.005, s - 0.005, e + 0.005, n + 0.005] : [w, s, e, n];

const signalled = ({ signal }: AbortController, error: unknown) => signal.aborted && error === signal.reason;

/** What became of one file. */
class FileCard {
  readonly element = makeElement('div', 'flint-card flint-file');
  private readonly fold = makeElement('details');
  private readonly summary = makeElement('summary');
  private readonly body = makeElement('div');

  constructor(
    private readonly name: string,
    private readonly strings: DropStrings,
  ) {
    const inside = makeElement('div');
    this.fold.open = true;
    this.fold.append(this.summary, this.body);
    inside.append(this.fold);
    this.element.append(inside);
  }

  /** Shows that the file is being read. @returns to be called with the share done */
  busy(cancel: () => void): (share: number) => void {
    const bar = makeElement('progress');
    bar.setAttribute('aria-label', this.strings.reading(this.name));
    this.fill(
      'reading',
      makeElement('p', '', this.strings.reading(this.name)),
      bar,
      this.act(this.strings.cancel, cancel),
    );
    return (share) => (bar.value = share);
  }

  done(summary: string, warnings: readonly FileWarning[]): void {
    const list = makeElement('ul');
    for (const { message, hint, count, places } of warnings) {
      const item = makeElement('li');
      item.append(makeElement('b', '', count > 1 ? `${message} (${count}×)` : message), makeElement('em', '', hint));
      if (places.length)
        item.append(makeElement('small', '', `${places.slice(0, 3).join('; ')}${count > 3 ? '; …' : ''}`));
      list.append(item);
    }
    this.fill('done', makeElement('p', '', summary), ...(warnings.length ? [list] : []), this.close());
    // Nothing to read but that all went well: one line is enough.
    this.fold.open = warnings.length > 0;
  }

  fail(message: string, hint: string): void {
    const said = makeElement('p');
    said.setAttribute('role', 'alert');
    said.append(makeElement('b', '', message), makeElement('em', '', hint));
    this.fill('failed', said, this.close());
  }

  note(text: string): void {
    this.fold.open = true;
    this.body.append(makeElement('p', '', text));
  }

  /** Shows a picture. */
  picture(source: string): void {
    const image = makeElement('img');
    image.src = source.startsWith('<') ? `data:image/svg+xml,${encodeURIComponent(source)}` : source;
    image.alt = '';
    this.body.prepend(image);
  }

  /** Asks for one of several things, which are gathered anew whenever somebody comes to choose. */
  choose(
    text: string,
    choices: () => readonly (readonly [value: string, text: string])[],
    chosen: (value: string) => void,
  ): void {
    this.fold.open = true;
    const [label, select] = [makeElement('label', '', text), makeElement('select')];
    const fill = () => {
      const { value } = select;
      select.replaceChildren(new Option('–', ''), ...choices().map(([id, said]) => new Option(said, id)));
      select.value = value;
    };
    fill();
    for (const type of ['focus', 'pointerdown']) select.addEventListener(type, fill);
    select.addEventListener('change', () => chosen(select.value));
    label.append(select);
    this.body.append(label);
  }

  undo(work: () => void): void {
    this.body.append(
      this.act(this.strings.undo, () => {
        work();
        this.remove();
      }),
    );
  }

  /**
   * Asks for the coordinate system of a file that names none, by code or by a search for its name.
   *
   * @param retry called with the code
   * @param before what was written the last time; default nothing
   */
  ask(retry: (crs: string) => void, before = ''): void {
    this.fold.open = true;
    const form = makeElement('form');
    const [label, input] = [makeElement('label', '', this.strings.system), makeElement('input')];
    input.required = true;
    input.autocomplete = 'off';
    input.value = before;
    label.append(input);
    const button = makeElement('button', 'flint-act', this.strings.apply);
    const found = makeElement('div', 'flint-systems');
    found.setAttribute('role', 'group');
    found.setAttribute('aria-label', this.strings.systems);
    const use = (code: string) => {
      input.value = code;
      retry(code);
    };
    const search = async () => {
      const text = input.value.trim();
      const { searchSystems } = await fetchPart(() => import('@flintwright/core/systems'));
      const systems = text.length > 2 ? await searchSystems(text, 6) : [];
      if (input.value.trim() !== text) return;
      const buttons = systems.map(({ id, name, areaName }) => {
        const one = this.act(`${name} · ${id}`, () => use(id));
        one.title = areaName;
        return one;
      });
      found.replaceChildren(...buttons);
    };
    const find = () =>
      void search().catch((error: unknown) => {
        const fault = asFault(error, 'crs.register', 'Write a code, such as EPSG:32625.');
        found.replaceChildren(makeElement('small', '', String(fault)));
      });
    input.addEventListener('input', find);
    form.append(label, button, found);
    form.addEventListener('submit', (event) => {
      event.preventDefault();
      use(input.value.trim());
    });
    if (before) find();
    this.body.append(form);
  }

  remove(): void {
    this.element.remove();
  }

  private close(): HTMLElement {
    return this.act(this.strings.close, () => this.remove());
  }

  private act(text: string, work: () => void): HTMLButtonElement {
    const button = makeElement('button', 'flint-act', text);
    button.type = 'button';
    button.addEventListener('click', work);
    return button;
  }

  private fill(state: 'reading' | 'done' | 'failed', ...parts: HTMLElement[]): void {
    this.element.dataset['state'] = state;
    const [said, ...rest] = parts;
    this.summary.replaceChildren(makeElement('h3', '', this.name), said);
    this.fold.open = true;
    this.body.replaceChildren(...rest);
  }
}
