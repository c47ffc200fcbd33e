// What the browser does: takes the page over as the server left it, and the map begins.
import { createElement } from 'react';
import { hydrateRoot } from 'react-dom/client';
import type { Sheet } from 'flintwright';
import { Harbour } from './harbour.js';

const sheet = JSON.parse(document.querySelector('#sheet')!.textContent) as Sheet;
hydrateRoot(document.querySelector('#page')!, createElement(Harbour, { sheet }));
