import { adoptStyles } from './adopt-styles.js';

/** What a map has that nobody has added anything to. */
const css = `
.flint { position: relative; overflow: hidden; isolation: isolate; --flint-ground: #f7f5ef; --flint-ink: #22303a; --flint-soft: #56666f; --flint-line: #b9b6aa; --flint-amber: #d98a2b;
  --flint-shadow: drop-shadow(0 1px 1px rgb(34 48 58 / 18%)) drop-shadow(0 3px 7px rgb(34 48 58 / 16%));
  --flint-font: "Noto Sans", system-ui, sans-serif; font: 13px/1.4 var(--flint-font); color: var(--flint-ink); }
.flint[data-color-scheme="dark"] { --flint-ground: #1b262e; --flint-ink: #eef0ea; --flint-soft: #a9b6bb; --flint-line: #42525c; --flint-amber: #e5a04a; --flint-shadow: drop-shadow(0 1px 1px rgb(0 0 0 / 40%)) drop-shadow(0 3px 7px rgb(0 0 0 / 34%)); }
.flint.flint-sizeless, .flint-sizeless .flint-overlay { overflow: visible; }
.flint-sizeless .flint-notice { bottom: auto; top: 12px; inset-inline-start: 12px; width: max-content; max-width: min(420px, 90vw); z-index: 3; }
.flint-canvas { position: absolute; inset: 0; width: 100%; height: 100%; display: block; touch-action: none; outline: none; cursor: grab; user-select: none; }
.flint-canvas:active { cursor: grabbing; }
.flint-canvas[data-over] { cursor: pointer; }
.flint-focus { position: absolute; inset: 0; pointer-events: none; }
.flint-canvas:focus-visible ~ .flint-focus { box-shadow: inset 0 0 0 2px #f7f5ef, inset 0 0 0 5px #22303a, inset 0 0 0 6px #f7f5ef; }
.flint-print { display: none; }
.flint-overlay { position: absolute; inset: 0; overflow: hidden; pointer-events: none; }
.flint-card { pointer-events: auto; background: var(--flint-line); padding: 1px; clip-path: polygon(0 0, calc(100% - 14px) 0, 100% 14px, 100% 100%, 0 100%); }
.flint-card > div { background: var(--flint-ground); color: var(--flint-ink); padding: 12px 14px 13px; clip-path: polygon(0 0, calc(100% - 13.6px) 0, 100% 13.6px, 100% 100%, 0 100%); }
/* A card is clipped at its corner, so its shadow belongs to what holds it. */
:is(.flint-control, .flint-popup, .flint-notice, .flint-file-list, .flint-seated):has(> .flint-card) { filter: var(--flint-shadow); }
.flint:dir(rtl) .flint-card { clip-path: polygon(14px 0, 100% 0, 100% 100%, 0 100%, 0 14px); }
.flint:dir(rtl) .flint-card > div { clip-path: polygon(13.6px 0, 100% 0, 100% 100%, 0 100%, 0 13.6px); }
.flint-marker { position: absolute; left: 0; top: 0; transform-origin: 0 0; pointer-events: auto; touch-action: none; user-select: none; }
.flint-marker[role] { cursor: pointer; }
.flint-marker:focus-visible { outline: 2px solid var(--flint-amber); outline-offset: 2px; }
.flint-marker img { display: block; }
.flint-missing { width: 16px; height: 16px; box-sizing: border-box; background: var(--flint-ink); border: 2px solid var(--flint-ground); transform-origin: 50% 50%; }
.flint-missing img { display: none; }
.flint-list:not(:focus) { position: absolute; width: 1px; height: 1px; padding: 0; border: 0; clip-path: inset(50%); white-space: nowrap; overflow: hidden; }
.flint-credit { position: absolute; box-sizing: border-box; width: max-content; padding: 2px 10px 3px; font-size: 11px; color: var(--flint-soft); background: color-mix(in srgb, var(--flint-ground) 90%, transparent); }
.flint-credit a { color: inherit; text-decoration-color: var(--flint-amber); text-underline-offset: 2px; }
.flint-credit { max-width: calc(100% - 20px); overflow-wrap: anywhere; pointer-events: auto; }
.flint-notice { position: absolute; width: max-content; max-width: min(420px, calc(100% - 24px)); }
.flint-notice .flint-card { border-inline-start: 4px solid #b8402a; padding-inline-start: 0; }
.flint-notice b { display: block; margin-inline-end: 18px; }
.flint-notice ul { margin: 4px 0 0; padding: 0; list-style: none; max-height: 9em; overflow: auto; }
.flint-notice li + li { margin-top: 6px; }
.flint-notice em { font-style: normal; color: var(--flint-soft); }
.flint-notice button { margin-top: 8px; min-height: 26px; padding: 2px 10px; border: 1px solid var(--flint-line); background: none; color: inherit; font: inherit; cursor: pointer; }
.flint[aria-busy="true"]::after { content: ""; position: absolute; z-index: 2; left: 0; top: 0; width: 30%; height: 2px; background: var(--flint-amber); animation: flint-busy 1.4s linear infinite; pointer-events: none; }
@keyframes flint-busy { from { transform: translateX(-100%); } to { transform: translateX(340%); } }
@keyframes flint-appear { from { opacity: 0; translate: 0 4px; } }
:is(.flint-popup, .flint-notice, .flint-file-list, .flint-draw-panel) > .flint-card { animation: flint-appear .14s ease-out; }
.flint-drawer > .flint-card { animation: flint-appear .18s ease-out; }
@media (prefers-reduced-motion: reduce) { .flint-card { animation: none !important; } .flint[aria-busy="true"]::after { animation: none; width: 100%; } }
@media (forced-colors: active) {
  .flint-card { border: 1px solid; }
  .flint-canvas:focus-visible ~ .flint-focus { outline: 3px solid Highlight; outline-offset: -3px; }
}
@media print {
  .flint-print { display: block; position: absolute; inset: 0; width: 100%; height: 100%; object-fit: cover; }
  .flint-canvas, .flint-focus { display: none; }
}
`;

/** Gives the document or shadow root of the map its style, once. */
export const dress = (host: Element): void => adoptStyles(host, css);
