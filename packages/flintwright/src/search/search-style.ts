/** The style of search boxes. */
export const searchStyle = `
.flint-search { pointer-events: auto; }
.flint > .flint-search { z-index: 6; }
.flint > .flint-search[data-seat^="bottom"] > .flint-card > div { display: flex; flex-direction: column-reverse; }
.flint-search:not(.flint > .flint-search) { position: static; margin: 0 0 12px; }
.flint-search > .flint-card > div { padding: 0; }
.flint-search:not(.flint > .flint-search) > .flint-card { width: auto; clip-path: none; }
.flint-search:not(.flint > .flint-search) > .flint-card > div { clip-path: none; }
.flint-ask { display: flex; align-items: center; height: 38px; }
@media (pointer: coarse) { .flint-ask { height: 44px; } }
.flint-ask > svg { flex: none; width: 20px; height: 20px; margin-inline-start: 11px; fill: var(--flint-soft); }
.flint-ask input { flex: 1; min-width: 0; height: 100%; padding: 0 8px; border: 0; outline: none; background: none; color: var(--flint-ink); font: 15px/1.3 var(--flint-font); }
.flint-ask input::placeholder { color: var(--flint-soft); opacity: 1; }
.flint-ask input::-webkit-search-cancel-button { display: none; }
.flint-control.flint-search input:focus-visible { outline: none; }
.flint-ask:focus-within { box-shadow: inset 0 -2px var(--flint-amber); }
.flint-ask button { flex: none; margin-inline-end: 12px; }
.flint-ask button[hidden] { display: none; }
.flint-found { margin: 0; padding: 0; list-style: none; max-height: min(368px, 50vh); overflow: auto; border-top: 1px solid var(--flint-line); scrollbar-width: thin; }
.flint-found:empty { display: none; }
.flint-found li { box-sizing: border-box; display: grid; grid-template: auto auto / 20px minmax(0, 1fr); align-content: center; align-items: center; gap: 0 11px; height: 46px; padding: 0 14px 0 11px; cursor: pointer; }
.flint-found li > :is(svg, img) { grid-row: 1 / -1; width: 20px; height: 20px; object-fit: contain; fill: var(--flint-soft); }
.flint-found :is(b, small) { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.flint-found b { font-weight: 500; unicode-bidi: plaintext; text-align: -webkit-match-parent; text-align: match-parent; }
.flint-found b:only-of-type:not(:has(+ small > *)) { grid-row: 1 / -1; }
.flint-found mark { background: none; color: inherit; text-decoration: underline 2px var(--flint-amber); text-underline-offset: 3px; }
.flint-found small { grid-column: 2; font-size: 12px; color: var(--flint-soft); }
.flint-found [aria-selected="true"] { background: color-mix(in srgb, var(--flint-amber) 24%, var(--flint-ground)); }
.flint-found [aria-selected="true"] small { color: var(--flint-ink); }
.flint-found li:hover { background: color-mix(in srgb, var(--flint-amber) 12%, var(--flint-ground)); }
.flint-say { margin: 0; padding: 8px 14px 9px 13px; border-top: 1px solid var(--flint-line); color: var(--flint-soft); }
.flint-say:empty { display: none; }
.flint-say b { display: block; font-weight: 500; color: var(--flint-ink); }
@media (forced-colors: active) { .flint-found [aria-selected="true"] { outline: 2px solid Highlight; outline-offset: -2px; } }
@media print { .flint-search { display: none; } }
`;
