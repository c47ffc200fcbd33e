/** The style of popups. */
export const popupStyle = `
.flint-popup, .flint-leader { z-index: 5; }
.flint-popup { position: absolute; left: 0; top: 0; width: max-content; max-width: min(300px, calc(100% - 24px)); }
.flint-popup .flint-card { border-inline-start: 4px solid var(--flint-amber); padding-inline-start: 0; }
.flint-popup:focus { outline: none; }
.flint-popup dd a { color: inherit; text-decoration-color: var(--flint-amber); text-underline-offset: 2px; }
.flint-popup .flint-card > div > .flint-picture { display: block; max-width: 100%; max-height: 220px; margin: 8px 0 0; }
.flint-html { margin-top: 8px; overflow-wrap: anywhere; }
.flint-html img { max-width: 100%; }
.flint-html a { color: inherit; }
.flint-popup :is(h2, p, dt, dd) { unicode-bidi: plaintext; text-align: -webkit-match-parent; text-align: match-parent; }
.flint-popup h2 { margin-block: 0 2px; margin-inline: 0 26px; font: 600 16px/1.3 var(--flint-font); }
.flint-popup p { margin: 0; color: var(--flint-soft); }
.flint-popup dl { margin: 8px 0 0; padding-top: 8px; border-top: 1px solid var(--flint-line); display: grid; grid-template-columns: auto 1fr; gap: 3px 18px; }
.flint-popup dt { color: var(--flint-soft); }
.flint-popup dd { margin: 0; }
.flint-popup > button { pointer-events: auto; position: absolute; inset-inline-end: 4px; top: 16px; width: 28px; height: 28px; padding: 0; border: 0; background: none; color: var(--flint-ink); font: 16px/28px var(--flint-font); cursor: pointer; }
.flint-popup > button:focus-visible { outline: 2px solid var(--flint-amber); outline-offset: -3px; }
.flint-leader { position: absolute; left: 0; top: 0; width: 100%; height: 100%; overflow: visible; }
.flint-leader line { stroke: var(--flint-amber); stroke-width: 1.5; }
`;
