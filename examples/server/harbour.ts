// A page of a framework that is rendered on the server first, with a map in it. Both sides run this file.
import { createElement, useEffect, useRef } from 'react';
import { createMap, type Sheet } from 'flintwright';

/** The chart as a component: an empty element on the server, a map once the page has it. */
export function Chart({ sheet }: { readonly sheet: Sheet }) {
  const host = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const map = createMap(host.current!, { sheet });
    Object.assign(window, { map });
    return () => map.remove();
  }, [sheet]);
  return createElement('div', { ref: host, id: 'map' });
}

export function Harbour({ sheet }: { readonly sheet: Sheet }) {
  return createElement('main', null, createElement('h1', null, sheet.title), createElement(Chart, { sheet }));
}
