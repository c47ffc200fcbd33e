import { asFault, type Fault } from '@flintwright/core';
import { checkOptions, type Corner, type OptionTable } from '../base/check-options.js';
import { Control, cross, drawing } from '../controls/control.js';
import { pause } from '../load/request.js';
import { dms } from '../controls/position.js';
import type { FlintMap } from '../map/map.js';
import type { Arrival } from '../map/view-animation.js';
import type { Marker } from '../markers/markers.js';
import { makeElement } from '../overlay/dom.js';
import type { Popup } from '../overlay/popup.js';
import type { PopupOptions } from '../overlay/popup-options.js';
import { adoptStyles } from '../overlay/adopt-styles.js';
import type { FoundPlace, PlaceFinder } from './finder.js';
import { placesIn } from './place-in.js';
import { englishSearch, type SearchStrings } from './search-strings.js';
import { searchStyle } from './search-style.js';

export type { FindRequest, FoundPlace, PlaceFinder } from './finder.js';
export type { ServiceOptions } from './ask.js';
export type { SearchStrings } from './search-strings.js';
export { gazetteerFinder, type GazetteerOptions } from './gazetteer-finder.js';
export {
  collectionFinder,
  geocodeJsonFinder,
  type CollectionOptions,
  type GeocodeJsonOptions,
} from './service-finders.js';

export interface SearchBoxOptions {
  /** Finders, in the order of their results; see {@link gazetteerFinder} and {@link geocodeJsonFinder}. */
  readonly finders: readonly PlaceFinder[];
  /** Maximum number of results shown; default 8. */
  readonly most?: number;
  /** Number of recent places offered while the box is empty; default 5, 0 for none. */
  readonly recent?: number;
  /** Whether a marker is shown at the chosen place; default true. */
  readonly mark?: boolean;
  /** Popup of the chosen place, opened on arrival; `false` for none. Default its name, kind and place. */
  readonly popup?: ((found: FoundPlace) => Omit<PopupOptions, 'at'>) | false;
  /** Whether a long press, the secondary button or the menu key on the map shows what is there; default true if a finder supports it. */
  readonly reverse?: boolean;
  /** Duration in milliseconds of the movement to the chosen place; default 900. */
  readonly duration?: number;
  /** Parent element, such as one in a drawer; default the map. */
  readonly host?: HTMLElement;
  /** Corner of the map; controls in one corner stack. Default: the upper corner at the inline start. */
  readonly position?: Corner | undefined;
  /** Called when a place was chosen, and again with the result of the movement there. */
  readonly onFound?: (found: FoundPlace, arrival?: Arrival) => void;
  /** Names of icons by kind of place; default an icon with the name of the kind, otherwise one for its general kind. */
  readonly icons?: Readonly<Record<string, string>>;
  /** Texts to replace the English ones. */
  readonly strings?: Partial<SearchStrings>;
}

const table: OptionTable<SearchBoxOptions> = {
  finders: 'list',
  most: 'number',
  recent: 'number',
  mark: 'switch',
  popup: 'function|switch',
  reverse: 'switch',
  duration: 'number',
  host: 'element',
  position: 'corner',
  onFound: 'function',
  icons: 'object',
  strings: 'object',
};

const lens =
  'M10 3A7 7 0 1 0 14.3 15.5L19.6 20.8L21 19.4L15.7 14.1A7 7 0 0 0 10 3ZM10 5A5 5 0 1 1 10 15A5 5 0 0 1 10 5Z';
/** Icons for kinds that gazetteers and services have in common. */
const generalIcons: Readonly<Record<string, string>> = {
  address: 'house',
  house: 'house',
  building: 'house',
  street: 'arrow',
  road: 'arrow',
  lane: 'arrow',
  park: 'tree',
  crossing: 'cross',
  city: 'hexagon',
  town: 'hexagon',
  locality: 'circle',
  village: 'circle',
  wood: 'tree',
  island: 'shell',
  mooring: 'anchor',
  pier: 'anchor',
};
const foldKind = (kind: string) => kind.toLowerCase().replace(/s$/, '');

/** Milliseconds without a key after which typing rests. */
const rest = 450;
let boxes = 0;

/**
 * A search box with suggestions that works with the keyboard alone (a combobox with a list, ARIA 1.2). It moves to the chosen place, marks
 * it, and opens its popup on arrival. It also understands coordinates.
 */
export class SearchBox extends Control {
  private readonly strings: SearchStrings;
  private readonly input: HTMLInputElement;
  private readonly list: HTMLElement;
  private readonly said: HTMLElement;
  private readonly clearing: HTMLButtonElement;
  private shown: readonly FoundPlace[] = [];
  /** The text that the places shown were found for. */
  private shownFor = '';
  private active = -1;
  /** The text that was asked for last, until the list is closed. */
  private askedFor: string | undefined;
  private pending: Promise<void> = Promise.resolve();
  private asking: AbortController | undefined;
  private readonly before: FoundPlace[] = [];
  private marker: Marker | undefined;
  private popup: Popup | undefined;

  /**
   * Adds a search box to a map.
   *
   * @param map the map
   * @param options finders, and what happens with a chosen place
   */
  constructor(
    map: FlintMap,
    private readonly options: SearchBoxOptions,
  ) {
    checkOptions(
      'new SearchBox',
      options,
      table,
      "new SearchBox(map, { finders: [gazetteerFinder('places.gazetteer')] })",
    );
    super(map, 'flint-search', { host: options.host, position: options.position, seat: 'top-start' });
    adoptStyles(map.host, searchStyle);
    this.strings = { ...englishSearch, ...options.strings };
    const { strings } = this;
    const id = `flint-search-${++boxes}`;
    this.input = makeElement('input');
    Object.assign(this.input, { type: 'search', placeholder: strings.label, autocomplete: 'off', spellcheck: false });
    this.list = makeElement('ul', 'flint-found');
    this.list.id = id;
    for (const [name, value] of Object.entries({
      role: 'combobox',
      'aria-label': strings.label,
      'aria-autocomplete': 'list',
      'aria-expanded': 'false',
      'aria-controls': id,
    }))
      this.input.setAttribute(name, value);
    this.list.setAttribute('role', 'listbox');
    this.list.setAttribute('aria-label', strings.results);
    this.said = makeElement('p', 'flint-say');
    this.said.setAttribute('role', 'status');
    this.clearing = this.button(strings.clear, cross, () => this.clear());
    this.clearing.hidden = true;
    const [card, body, ask] = [makeElement('div', 'flint-card'), makeElement('div'), makeElement('div', 'flint-ask')];
    ask.append(drawing(lens), this.input, this.clearing);
    body.append(ask, this.list, this.said);
    card.append(body);
    this.element.append(card);
    this.end(() => this.asking?.abort());
    this.listen();
  }

  private listen(): void {
    const { input, list, map } = this;
    this.on(input, 'input', () => this.startAsking(true));
    this.on(input, 'focus', () => {
      if (!this.shown.length && !this.said.textContent) void this.startAsking();
    });
    this.on<KeyboardEvent>(input, 'keydown', (event) => this.key(event));
    this.on<FocusEvent>(this.element, 'focusout', ({ relatedTarget }) => {
      if (!(relatedTarget instanceof Node && this.element.contains(relatedTarget))) this.close();
    });
    // A press on the list must not take the focus from the box.
    this.on(list, 'pointerdown', (event: Event) => event.preventDefault());
    this.on(list, 'click', ({ target }: Event) => {
      const item = (target as Element).closest('li');
      if (item) void this.choose([...list.children].indexOf(item));
    });
    const answers = this.options.finders.some((finder) => finder.reverse);
    if (this.options.reverse ?? answers)
      this.on<CustomEvent<{ place: readonly [number, number] | undefined }>>(map, 'contextmenu', (event) => {
        const { place } = event.detail;
        if (!place || event.defaultPrevented) return;
        event.preventDefault();
        void this.tellHere(place);
      });
  }

  private key(event: KeyboardEvent): void {
    const last = this.shown.length - 1;
    const steps: Readonly<Record<string, number>> = {
      ArrowDown: this.active < last ? this.active + 1 : 0,
      ArrowUp: this.active > 0 ? this.active - 1 : last,
    };
    if (event.isComposing) return;
    if (event.key in steps) {
      event.preventDefault();
      if (last >= 0) this.mark(steps[event.key]);
      else void this.startAsking();
    } else if (event.key === 'Enter') {
      event.preventDefault();
      void this.chooseForText();
    } else if (event.key === 'Escape' && (this.input.value || this.shown.length)) {
      event.preventDefault();
      event.stopPropagation();
      if (this.shown.length && this.input.value) this.close();
      else this.clear();
    }
  }

  /** Chooses the marked place, else the first that was found for the text as it is now, waiting for it where it is still being asked for. */
  private async chooseForText(): Promise<void> {
    if (this.active >= 0) return this.choose(this.active);
    const text = this.input.value.trim();
    if (this.askedFor !== text) await this.startAsking();
    else if (this.shownFor !== text || !this.shown.length) await this.pending;
    if (this.input.value.trim() === text && this.shownFor === text) await this.choose(Math.max(0, this.active));
  }

  private startAsking(typing = false): Promise<void> {
    this.askedFor = this.input.value.trim();
    this.pending = this.ask(typing);
    return this.pending;
  }

  /** Sets the text of the box and searches for it, as if the reader had typed it. */
  async search(text: string): Promise<readonly FoundPlace[]> {
    this.input.value = text;
    await this.startAsking();
    return this.shown;
  }

  /** @param typing whether the next key may change what is asked for */
  private async ask(typing = false): Promise<void> {
    this.asking?.abort();
    const asking = new AbortController();
    this.asking = asking;
    const { signal } = asking;
    const text = this.input.value.trim();
    this.clearing.hidden = !this.input.value && !this.marker;
    if (!text) {
      this.show(this.before.slice(0, this.options.recent ?? 5), '');
      return;
    }
    const { strings, map } = this;
    const most = this.options.most ?? 8;
    const [lon, lat] = map.view.center;
    const language = (map.host.closest('[lang]')?.getAttribute('lang') ?? navigator.language).split('-')[0];
    const slow = setTimeout(() => !signal.aborted && this.say(strings.searching), 300);
    const faults: Fault[] = [];
    const found: FoundPlace[][] = [];
    const place = await placesIn(text, strings.coordinates);
    try {
      await Promise.all(
        this.options.finders.map(async (finder, i) => {
          try {
            if (finder.pause) await pause(finder.pause, signal);
            found[i] = [...(await finder.find({ text, near: [lon, lat], most, language, signal }))];
            if (!signal.aborted) this.show([...place, ...found.flat()].slice(0, most), text);
          } catch (error) {
            if (!signal.aborted) faults.push(asFault(error, 'search.failed', 'Try again later.'));
          }
        }),
      );
    } finally {
      clearTimeout(slow);
    }
    if (signal.aborted) return;
    const all = [...place, ...found.flat()].slice(0, most);
    this.show(all, text);
    if (faults.length) this.say(faults[0].message, faults[0].hint);
    else if (all.length) this.say('', '', strings.count(all.length));
    else {
      // With each key there may be something again.
      if (typing) await pause(rest, signal).catch(() => {});
      if (!signal.aborted) this.say(strings.nothing(text));
    }
  }

  /** Says something below the box; `aside` is for those who do not see the list. */
  private say(text: string, hint = '', aside = ''): void {
    this.said.replaceChildren(...(text ? [hint ? makeElement('b', '', text) : text, hint] : []));
    this.list.setAttribute('aria-description', aside);
  }

  private show(places: readonly FoundPlace[], text: string): void {
    const marked = this.shown[this.active];
    this.shown = places;
    this.shownFor = text;
    this.active = -1;
    this.said.replaceChildren();
    this.input.removeAttribute('aria-activedescendant');
    this.input.setAttribute('aria-expanded', String(places.length > 0));
    const words = text.split(/[\s,]+/).filter(Boolean);
    this.list.replaceChildren(
      ...places.map((place, i) => {
        const item = makeElement('li');
        item.id = `${this.list.id}-${i}`;
        item.setAttribute('role', 'option');
        item.setAttribute('aria-selected', 'false');
        const kind = text ? this.kindText(place.kind) : this.strings.recent;
        const name = withMarks(place.name, words);
        name.title = place.name;
        const parts = [kind, place.within].filter((part) => part).map((part) => makeElement('bdi', '', part));
        const more = makeElement('small');
        more.append(...parts.flatMap((part, k) => (k ? [' · ', part] : [part])));
        item.append(this.iconOf(place), name, more);
        item.setAttribute('aria-label', [place.name, kind, place.within].filter(Boolean).join(', '));
        return item;
      }),
    );
    // Keeps the marked place when a slower finder adds results.
    const kept = marked ? places.findIndex((place) => samePlace(place, marked)) : -1;
    if (kept >= 0) this.mark(kept);
  }

  /** The drawing of what a place is. */
  private iconOf({ kind = '' }: FoundPlace): Element {
    const { icons } = this.map;
    const given = this.options.icons?.[kind] ?? kind;
    const { address, path } = icons.look(icons.names.includes(given) ? given : (generalIcons[foldKind(kind)] ?? 'dot'));
    if (address === undefined) return drawing(path);
    const image = makeElement('img');
    Object.assign(image, { src: address, alt: '' });
    return image;
  }

  /** What a place is, in words: as the texts of the box have it, else the value of the data without its signs. */
  private kindText(kind = ''): string {
    const words = kind.replace(/([\p{Ll}])(?=\p{Lu})/gu, '$1 ').replace(/[_-]+/g, ' ');
    return this.strings.kinds[kind] ?? (words === kind ? kind : words.toLowerCase());
  }

  private mark(index: number): void {
    this.list.children[this.active]?.setAttribute('aria-selected', 'false');
    this.active = index;
    const item = this.list.children[index];
    item.setAttribute('aria-selected', 'true');
    item.scrollIntoView({ block: 'nearest' });
    this.input.setAttribute('aria-activedescendant', item.id);
  }

  private async choose(index: number): Promise<void> {
    const found = this.shown[index];
    if (!found) return;
    this.input.value = [found.name, found.within].filter(Boolean).join(', ');
    this.close();
    await this.go(found);
  }

  /**
   * Moves to a place, marks it, and opens its popup on arrival.
   *
   * @param found the place
   * @returns the result of the movement; if it was interrupted, no popup opens
   */
  async go(found: FoundPlace): Promise<Arrival> {
    const { map, options } = this;
    const same = this.before.findIndex((place) => samePlace(place, found));
    if (same >= 0) this.before.splice(same, 1);
    this.before.unshift(found);
    this.before.length = Math.min(this.before.length, 20);
    this.unmark();
    const popup =
      options.popup === false ? undefined : (options.popup ?? popupOf)({ ...found, kind: this.kindText(found.kind) });
    if (options.mark ?? true)
      this.marker = map.markers.add({
        at: found.at,
        title: found.name,
        color: '#b46c15',
        priority: 10,
        ...(popup ? { popup } : {}),
      });
    this.clearing.hidden = false;
    options.onFound?.(found);
    const { duration = 900 } = options;
    const zoom = found.zoom ?? 16;
    const arrival = await (found.bounds
      ? map.frame(found.bounds, { duration, zoom, padding: 40 })
      : map.move({ center: found.at, zoom: Math.min(zoom, map.zooms[1]) }, { duration }));
    // The marker is gone where somebody has cleared the search or chosen another place meanwhile.
    if (arrival.arrived && popup && (this.marker?.at.join() === found.at.join() || !(options.mark ?? true)))
      this.popup = map.popup({ ...popup, at: this.marker ?? found.at, rise: this.marker ? 36 : 0, focus: false });
    options.onFound?.(found, arrival);
    return arrival;
  }

  private async tellHere(at: readonly [number, number]): Promise<void> {
    const { map, options, strings } = this;
    const { signal } = new AbortController();
    const found: FoundPlace[] = [];
    for (const finder of options.finders)
      try {
        found.push(
          ...((await finder.reverse?.(at, { most: 3, language: navigator.language.split('-')[0], signal })) ?? []),
        );
      } catch (error) {
        map.report(asFault(error, 'search.failed', 'Try again later.'));
      }
    const [first, ...rest] = found;
    this.popup?.remove();
    const [lon, lat] = at;
    this.popup = map.popup({
      at: [lon, lat],
      title: first ? first.name : strings.here,
      text: first ? [this.kindText(first.kind), first.within].filter(Boolean).join(' · ') : strings.nothingHere,
      lines: {
        ...Object.fromEntries(rest.slice(0, 2).map(({ name, kind }) => [this.kindText(kind) || '·', name])),
        [strings.coordinates]: `${lat.toFixed(5)}, ${lon.toFixed(5)}`,
      },
    });
  }

  /** Closes the list; the text stays. */
  private close(): void {
    this.asking?.abort();
    this.askedFor = undefined;
    this.show([], '');
  }

  /** Empties the box, and removes the marker and popup of the chosen place. */
  clear(): void {
    this.input.value = '';
    this.unmark();
    this.close();
    this.clearing.hidden = true;
    this.input.focus();
  }

  private unmark(): void {
    this.popup?.remove();
    this.marker?.remove();
    this.marker = this.popup = undefined;
  }

  override remove(): void {
    this.unmark();
    super.remove();
  }
}

const samePlace = (a: FoundPlace, b: FoundPlace) => a.name === b.name && a.at.join() === b.at.join();

function popupOf({ name, within, kind, at: [lon, lat], lines }: FoundPlace): Omit<PopupOptions, 'at'> {
  return {
    title: name,
    text: [kind, within].filter(Boolean).join(' · '),
    ...(lines ? { lines } : { lines: { latitude: dms(lat, 'N', 'S'), longitude: dms(lon, 'E', 'W') } }),
  };
}

/** A name with the beginnings of its words marked that were asked for. */
function withMarks(name: string, words: readonly string[]): HTMLElement {
  const out = makeElement('b');
  const plain = (text: string) =>
    text
      .normalize('NFD')
      .replace(/\p{Mn}/gu, '')
      .toLowerCase();
  for (const part of name.split(/(?<=[\s&])|(?=[\s&])/)) {
    const hit = words.find((word) => plain(part).startsWith(plain(word)));
    const letters = hit === undefined ? 0 : [...hit].length;
    if (letters) out.append(makeElement('mark', '', [...part].slice(0, letters).join('')));
    out.append([...part].slice(letters).join(''));
  }
  return out;
}
