import { checkOptions, type Corner, type OptionTable } from '../base/check-options.js';
import { Fault } from '@flintwright/core';
import type { FlintMap } from '../map/map.js';
import { Control, drawing } from './control.js';
import { makeElement } from '../overlay/dom.js';

export interface RailOptions {
  /** Parts of the rail from the top; default all. */
  readonly parts?: readonly ('zoom' | 'compass' | 'home' | 'locate' | 'fullscreen')[];
  /** Corner of the map; controls in one corner stack. Default: the middle of the edge at the inline end. */
  readonly position?: Corner | undefined;
}

const plus = 'M11 5H13V11H19V13H13V19H11V13H5V11H11Z';
const minus = 'M5 11H19V13H5Z';
const house = 'M12 3L21 11H18.5V20H13.6V14.4H10.4V20H5.5V11H3ZM12 5.6L7.3 9.8V18.2H8.6V12.6H15.4V18.2H16.7V9.8Z';
const cross =
  'M11 2H13V4.1A8 8 0 0 1 19.9 11H22V13H19.9A8 8 0 0 1 13 19.9V22H11V19.9A8 8 0 0 1 4.1 13H2V11H4.1A8 8 0 0 1 11 4.1ZM12 6a6 6 0 1 0 .01 0ZM12 10.2a1.8 1.8 0 1 1-.01 0Z';
const corners = 'M4 4H10V6H6V10H4ZM14 4H20V10H18V6H14ZM4 14H6V18H10V20H4ZM18 14H20V20H14V18H18Z';
const north = 'M12 2L15.4 12H8.6Z';
const south = 'M12 22L8.6 12H15.4Z';
/** Height of a map, in pixels, from which the track has room. */
const roomy = 420;
/** Pixels of the zoom track. */
const length = 156;

const table: OptionTable<RailOptions> = { parts: 'list', position: 'corner' };

/**
 * The rail: a zoom track with a tick for each zoom level and a draggable stop, a compass that also shows the tilt, the first view, and the
 * reader's location.
 */
export class Rail extends Control {
  private readonly needle: SVGGElement | undefined;
  private readonly stop: HTMLElement | undefined;
  private circle = false;

  /**
   * Adds a rail to a map.
   *
   * @param map the map
   * @param options parts of the rail
   */
  constructor(map: FlintMap, options: RailOptions = {}) {
    checkOptions('new Rail', options, table, "new Rail(map, { parts: ['zoom', 'home'] })");
    const { parts = ['zoom', 'compass', 'home', 'locate'] } = options;
    super(map, 'flint-rail', { position: options.position, seat: 'middle-end' });
    const card = makeElement('div', 'flint-card');
    const body = makeElement('div');
    card.append(body);
    this.element.append(card);
    const { strings } = map;
    for (const part of parts) {
      const group = makeElement('div', `flint-rail-${part}`);
      body.append(group);
      switch (part) {
        case 'zoom':
          this.stop = this.track(group);
          break;
        case 'compass': {
          const button = this.button(
            strings.compass,
            '',
            () => void map.move({ bearing: 0, tilt: 0 }, { duration: 400 }),
          );
          this.needle = document.createElementNS('http://www.w3.org/2000/svg', 'g');
          const [head, tail] = [drawing(north).firstElementChild!, drawing(south).firstElementChild!];
          head.setAttribute('class', 'flint-north');
          tail.setAttribute('class', 'flint-south');
          this.needle.append(head, tail);
          button.firstElementChild!.replaceChildren(this.needle);
          group.append(button);
          break;
        }
        case 'home':
          group.append(this.button(strings.home, house, () => void map.home()));
          break;
        case 'locate':
          group.append(this.button(strings.locate, cross, () => this.locate()));
          break;
        case 'fullscreen': {
          const button = this.button(strings.fullScreen, corners, () =>
            document.fullscreenElement ? void document.exitFullscreen() : void map.host.requestFullscreen(),
          );
          this.on(document, 'fullscreenchange', () => {
            const label = document.fullscreenElement ? strings.leaveFullScreen : strings.fullScreen;
            button.title = label;
            button.setAttribute('aria-label', label);
          });
          group.append(button);
          break;
        }
      }
    }
    const sizes = new ResizeObserver(() => {
      this.element.classList.toggle('flint-low', map.host.clientHeight < roomy);
    });
    sizes.observe(map.host);
    this.end(() => sizes.disconnect());
    this.on(map, 'viewchange', () => this.follow());
    this.follow();
  }

  private track(group: HTMLElement): HTMLElement {
    const { map } = this;
    const { strings } = map;
    const [low, high] = map.zooms;
    const track = makeElement('div', 'flint-track');
    for (let level = Math.ceil(low); level <= high; level++) {
      const tick = makeElement('i');
      tick.style.bottom = `${((level - low) / (high - low)) * length}px`;
      track.append(tick);
    }
    const stop = makeElement('div', 'flint-stop');
    stop.tabIndex = 0;
    stop.setAttribute('role', 'slider');
    stop.setAttribute('aria-label', strings.zoom);
    stop.setAttribute('aria-orientation', 'vertical');
    stop.setAttribute('aria-valuemin', String(low));
    stop.setAttribute('aria-valuemax', String(high));
    track.append(stop);
    const zoomAt = (event: PointerEvent) => {
      const box = track.getBoundingClientRect();
      return low + Math.max(0, Math.min(1, (box.bottom - event.clientY) / box.height)) * (high - low);
    };
    this.on(track, 'pointerdown', (event: PointerEvent) => {
      track.setPointerCapture(event.pointerId);
      void map.move({ zoom: zoomAt(event) }, { duration: event.target === stop ? 0 : 250 });
    });
    this.on(track, 'pointermove', (event: PointerEvent) => {
      if (track.hasPointerCapture(event.pointerId)) void map.move({ zoom: zoomAt(event) });
    });
    this.on(stop, 'keydown', (event: KeyboardEvent) => {
      const by = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1, PageUp: 3, PageDown: -3 }[event.key];
      const zoom =
        event.key === 'Home'
          ? low
          : event.key === 'End'
            ? high
            : by === undefined
              ? undefined
              : map.destination.zoom + by;
      if (zoom === undefined) return;
      event.preventDefault();
      void map.move({ zoom }, { duration: 200 });
    });
    const step = (by: number) => () =>
      void map.move({ zoom: Math.round(map.destination.zoom) + by }, { duration: 250 });
    group.append(this.button(strings.zoomIn, plus, step(1)), track, this.button(strings.zoomOut, minus, step(-1)));
    return stop;
  }

  private follow(): void {
    const { zoom, bearing, tilt } = this.map.view;
    const [low, high] = this.map.zooms;
    if (this.stop) {
      this.stop.style.bottom = `${((zoom - low) / (high - low)) * length}px`;
      this.stop.setAttribute('aria-valuenow', zoom.toFixed(1));
    }
    this.needle?.setAttribute(
      'transform',
      `translate(12 12) scale(1 ${Math.cos((tilt * Math.PI) / 180).toFixed(3)}) rotate(${(-bearing).toFixed(1)}) translate(-12 -12)`,
    );
  }

  /** Asks the browser where the reader is, and shows it with the circle of its accuracy. */
  private locate(): void {
    const { map } = this;
    const { strings } = map;
    const fault = (code: string, message: string) => map.report(new Fault(code, message, ''));
    if (!('geolocation' in navigator)) {
      fault('locate.none', strings.locateNone);
      return;
    }
    navigator.geolocation.getCurrentPosition(
      ({ coords }) => {
        const at: [number, number] = [coords.longitude, coords.latitude];
        const features = circleAround(at, coords.accuracy);
        if (this.circle) map.layers.feed('flint-here', { features });
        else
          map.layers.add({
            id: 'flint-here',
            of: { features },
            legend: false,
            fill: { color: '#d98a2b', opacity: 0.16 },
            stroke: { color: '#d98a2b', width: 1.5 },
            mark: { shape: 'circle', size: 14, color: '#d98a2b', outline: { color: '#ffffff', width: 2.5 } },
          });
        this.circle = true;
        void map.frame(features, { zoom: 16, padding: 60 });
      },
      ({ code }) => {
        if (code === 1) fault('locate.refused', strings.locateRefused);
        else if (code === 3) fault('locate.late', strings.locateLate);
        else fault('locate.failed', strings.locateFailed);
      },
      { enableHighAccuracy: true, timeout: 15000 },
    );
  }
}

/** A place and the circle of a radius in meters around it. */
function circleAround([lon, lat]: [number, number], radius: number): { type: string; features: object[] } {
  const metre = 360 / (2 * Math.PI * 6371008.8);
  const narrow = Math.cos((lat * Math.PI) / 180);
  const ring = Array.from({ length: 65 }, (_, i) => {
    const a = (i / 64) * 2 * Math.PI;
    return [lon + (Math.cos(a) * radius * metre) / narrow, lat + Math.sin(a) * radius * metre];
  });
  ring[64] = ring[0];
  const feature = (type: string, coordinates: unknown) => ({
    type: 'Feature',
    properties: {},
    geometry: { type, coordinates },
  });
  return { type: 'FeatureCollection', features: [feature('Polygon', [ring]), feature('Point', [lon, lat])] };
}
