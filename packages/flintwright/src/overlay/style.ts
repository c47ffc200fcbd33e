import { wear } from './wear.js';

const css = `
.flint { position: relative; overflow: hidden; isolation: isolate; --flint-ground: #f7f5ef; --flint-ink: #22303a; --flint-soft: #56666f; --flint-line: #b9b6aa; --flint-amber: #d98a2b;
  --flint-font: "Noto Sans", system-ui, sans-serif; font: 13px/1.4 var(--flint-font); color: var(--flint-ink); }
.flint[data-color-scheme="dark"] { --flint-ground: #1b262e; --flint-ink: #eef0ea; --flint-soft: #a9b6bb; --flint-line: #42525c; --flint-amber: #e5a04a; }
.flint.flint-sizeless, .flint-sizeless .flint-overlay { overflow: visible; }
.flint-sizeless .flint-notice { bottom: auto; top: 12px; width: max-content; max-width: min(420px, 90vw); z-index: 3; }
.flint-canvas { position: absolute; inset: 0; width: 100%; height: 100%; display: block; touch-action: none; outline: none; cursor: grab; user-select: none; }
.flint-canvas:active { cursor: grabbing; }
.flint-canvas[data-over] { cursor: pointer; }
.flint-focus { position: absolute; inset: 0; pointer-events: none; }
.flint-canvas:focus-visible ~ .flint-focus { box-shadow: inset 0 0 0 2px #f7f5ef, inset 0 0 0 5px #22303a, inset 0 0 0 6px #f7f5ef; }
.flint-print { display: none; }
.flint-overlay { position: absolute; inset: 0; overflow: hidden; pointer-events: none; }
.flint-card { pointer-events: auto; background: var(--flint-line); padding: 1px; clip-path: polygon(0 0, calc(100% - 16px) 0, 100% 16px, 100% 100%, 0 100%); }
.flint-card > div { background: var(--flint-ground); color: var(--flint-ink); padding: 12px 14px 13px; clip-path: polygon(0 0, calc(100% - 15.6px) 0, 100% 15.6px, 100% 100%, 0 100%); }
.flint-popup { position: absolute; left: 0; top: 0; width: max-content; max-width: min(300px, calc(100% - 24px)); }
.flint-popup .flint-card { border-left: 4px solid var(--flint-amber); padding-left: 0; }
.flint-popup:focus { outline: none; }
.flint-popup dd a, .flint-credit a { color: inherit; text-decoration-color: var(--flint-amber); text-underline-offset: 2px; }
.flint-popup .flint-card > div > .flint-picture { display: block; max-width: 100%; max-height: 220px; margin: 8px 0 0; }
.flint-html { margin-top: 8px; overflow-wrap: anywhere; }
.flint-html img { max-width: 100%; }
.flint-html a { color: inherit; }
.flint-popup h2 { margin: 0 26px 2px 0; font: 600 16px/1.3 var(--flint-font); }
.flint-popup p { margin: 0; color: var(--flint-soft); }
.flint-popup dl { margin: 8px 0 0; padding-top: 8px; border-top: 1px solid var(--flint-line); display: grid; grid-template-columns: auto 1fr; gap: 3px 18px; }
.flint-popup dt { color: var(--flint-soft); }
.flint-popup dd { margin: 0; }
.flint-popup > button { pointer-events: auto; position: absolute; right: 4px; top: 16px; width: 28px; height: 28px; padding: 0; border: 0; background: none; color: var(--flint-ink); font: 16px/28px var(--flint-font); cursor: pointer; }
.flint-popup > button:focus-visible { outline: 2px solid var(--flint-amber); outline-offset: -3px; }
.flint-leader { position: absolute; left: 0; top: 0; width: 100%; height: 100%; overflow: visible; }
.flint-leader line { stroke: var(--flint-amber); stroke-width: 1.5; }
.flint-marker { position: absolute; left: 0; top: 0; transform-origin: 0 0; pointer-events: auto; touch-action: none; user-select: none; }
.flint-marker[role] { cursor: pointer; }
.flint-marker:focus-visible { outline: 2px solid var(--flint-amber); outline-offset: 2px; }
.flint-marker img { display: block; }
.flint-missing { width: 16px; height: 16px; box-sizing: border-box; background: var(--flint-ink); border: 2px solid var(--flint-ground); transform-origin: 50% 50%; }
.flint-missing img { display: none; }
.flint-list { position: absolute; z-index: 2; left: 14px; bottom: max(48px, calc(var(--flint-foot, 0px) + 8px)); width: min(270px, calc(100% - 28px)); max-height: 200px; overflow: auto; pointer-events: auto; background: var(--flint-ground); border: 1px solid var(--flint-line); border-left: 4px solid var(--flint-amber); clip-path: polygon(0 0, calc(100% - 14px) 0, 100% 14px, 100% 100%, 0 100%); outline: none; }
.flint-list:not(:focus) { width: 1px; height: 1px; padding: 0; border: 0; clip-path: inset(50%); white-space: nowrap; overflow: hidden; }
.flint-list [role=option] { min-height: 24px; padding: 3px 14px; cursor: pointer; overflow: hidden; text-overflow: ellipsis; }
.flint-list [aria-selected=true] { background: color-mix(in srgb, var(--flint-amber) 26%, var(--flint-ground)); box-shadow: inset 0 0 0 1px var(--flint-amber); }
.flint-ring { position: absolute; left: -19px; top: -19px; width: 38px; height: 38px; pointer-events: none; outline: 2px solid var(--flint-ground); background: var(--flint-ink); clip-path: polygon(evenodd, 50% 0, 96% 25%, 96% 75%, 50% 100%, 4% 75%, 4% 25%, 50% 0, 50% 9%, 12% 30%, 12% 70%, 50% 91%, 88% 70%, 88% 30%, 50% 9%); }
.flint-credit { position: absolute; right: 0; bottom: 0; padding: 2px 10px 3px; font-size: 11px; color: var(--flint-soft); background: color-mix(in srgb, var(--flint-ground) 90%, transparent); }
.flint-credit { max-width: calc(100% - 20px); overflow-wrap: anywhere; pointer-events: auto; }
.flint-hint { position: absolute; inset: 0; display: grid; place-items: center; padding: 0 24px; text-align: center; font: 500 15px/1.4 var(--flint-font); color: #f7f5ef; background: rgb(34 48 58 / 62%); opacity: 0; transition: opacity .25s; }
.flint-hint[data-on] { opacity: 1; }
@media (prefers-reduced-motion: reduce) { .flint-hint { transition: none; } }
.flint-notice { position: absolute; left: 12px; bottom: calc(var(--flint-foot, 0px) + 8px); max-width: min(420px, calc(100% - 24px)); }
.flint-notice .flint-card { border-left: 4px solid #b8402a; padding-left: 0; }
.flint-notice b { display: block; margin-right: 18px; }
.flint-notice ul { margin: 4px 0 0; padding: 0; list-style: none; max-height: 9em; overflow: auto; }
.flint-notice li + li { margin-top: 6px; }
.flint-notice em { font-style: normal; color: var(--flint-soft); }
.flint-notice button { margin-top: 8px; min-height: 26px; padding: 2px 10px; border: 1px solid var(--flint-line); background: none; color: inherit; font: inherit; cursor: pointer; }
.flint[aria-busy="true"]::after { content: ""; position: absolute; z-index: 2; left: 0; top: 0; width: 30%; height: 2px; background: var(--flint-amber); animation: flint-busy 1.4s linear infinite; pointer-events: none; }
@keyframes flint-busy { from { transform: translateX(-100%); } to { transform: translateX(340%); } }
@media (prefers-reduced-motion: reduce) { .flint[aria-busy="true"]::after { animation: none; width: 100%; } }
.flint-own { right: 14px; top: 14px; }
.flint-own + .flint-own { top: 56px; }
.flint-own .flint-card > div { padding: 2px; }
.flint-control { position: absolute; z-index: 1; color: var(--flint-ink); }
.flint-control button { display: block; width: 34px; height: 32px; padding: 5px; border: 0; background: none; color: inherit; cursor: pointer; }
.flint-control button svg { display: block; width: 100%; height: 100%; fill: currentColor; }
.flint-control button:hover { color: color-mix(in srgb, var(--flint-ink) 55%, var(--flint-amber)); }
.flint-control button:focus-visible, .flint-control input:focus-visible, .flint-stop:focus-visible { outline: 2px solid var(--flint-amber); outline-offset: -2px; }
.flint-rail { right: 14px; top: 12px; bottom: 34px; display: flex; flex-direction: column; justify-content: center; pointer-events: none; }
.flint-rail .flint-card { max-height: 100%; overflow: hidden auto; scrollbar-width: none; }
.flint-low .flint-track { display: none; }
.flint-rail .flint-card { clip-path: polygon(0 0, calc(100% - 12px) 0, 100% 12px, 100% 100%, 0 100%); }
.flint-rail .flint-card > div { padding: 6px 3px; clip-path: polygon(0 0, calc(100% - 11.6px) 0, 100% 11.6px, 100% 100%, 0 100%); }
.flint-rail .flint-card > div > div + div { margin-top: 3px; padding-top: 3px; border-top: 1px solid color-mix(in srgb, var(--flint-line) 60%, transparent); }
.flint-track { position: relative; height: 156px; margin: 8px 3px; cursor: pointer; touch-action: none; }
.flint-track::before { content: ""; position: absolute; left: 13px; top: 0; bottom: 0; width: 1px; background: var(--flint-soft); }
.flint-track i { position: absolute; left: 9px; width: 9px; height: 1px; background: var(--flint-line); }
.flint-stop { position: absolute; left: 2px; width: 24px; height: 24px; margin-bottom: -12px; }
.flint-stop::after { content: ""; position: absolute; left: 0; right: 0; top: 6px; height: 12px; background: var(--flint-amber); clip-path: polygon(0 0, calc(100% - 5px) 0, 100% 50%, calc(100% - 5px) 100%, 0 100%); box-shadow: 0 0 0 1px var(--flint-ink); }
.flint-north { fill: #c5523a; }
.flint-south { fill: var(--flint-line); }
.flint-drawer { left: 14px; top: 14px; display: flex; align-items: flex-start; max-height: calc(100% - 60px); }
.flint-drawer .flint-card { width: 250px; max-height: inherit; overflow: auto; }
.flint-drawer .flint-card[hidden] { display: none; }
.flint-drawer .flint-title { margin: 0 14px 8px 0; font: 600 16px/1.3 var(--flint-font); }
.flint-drawer .flint-heading { margin: 10px 0 4px; font: 500 11px/1.3 var(--flint-font); letter-spacing: .09em; text-transform: uppercase; color: var(--flint-soft); }
.flint-drawer .flint-heading:first-child { margin-top: 0; }
.flint-drawer .flint-toggle { background: var(--flint-ground); width: 28px; }
.flint-shut .flint-toggle svg { transform: scaleX(-1); }
.flint-layer { display: flex; align-items: center; justify-content: space-between; gap: 10px; min-height: 26px; }
.flint-layer label { display: flex; gap: 8px; align-items: center; min-height: 24px; min-width: 0; }
.flint-layer small { font-size: 11px; color: var(--flint-soft); }
.flint-layer[data-state="failed"] small { color: #b8402a; }
.flint-control .flint-view { display: block; width: 100%; height: auto; min-height: 26px; padding: 3px 8px; margin-top: 3px; text-align: left; font: inherit; border: 1px solid var(--flint-line); }
.flint-control .flint-view:hover { border-color: var(--flint-amber); }
.flint-control input { accent-color: #b46c15; }
.flint-layer input[type=range] { appearance: none; width: 78px; height: 24px; margin: 0; background: none; }
.flint-layer input[type=range]::-webkit-slider-runnable-track { height: 1px; background: var(--flint-soft); }
.flint-layer input[type=range]::-moz-range-track { height: 1px; background: var(--flint-soft); }
.flint-layer input[type=range]::-webkit-slider-thumb { appearance: none; width: 8px; height: 16px; margin-top: -8px; background: var(--flint-amber); border: 1px solid var(--flint-ink); border-radius: 0; }
.flint-layer input[type=range]::-moz-range-thumb { width: 7px; height: 15px; background: var(--flint-amber); border: 1px solid var(--flint-ink); border-radius: 0; }
.flint-drawer .flint-legend { margin-top: 12px; }
.flint-scale { left: 0; bottom: 0; padding: 5px 18px 13px; font-size: 12px; background: color-mix(in srgb, var(--flint-ground) 90%, transparent); pointer-events: none; }
.flint-bar-line { height: 6px; margin-top: 2px; border: solid var(--flint-ink); border-width: 0 1.5px 1.5px; }
.flint-position { left: 50%; bottom: 0; transform: translateX(-50%); max-width: calc(100% - 20px); overflow: hidden; text-overflow: ellipsis; padding: 2px 10px 3px; font-size: 11px; font-variant-numeric: tabular-nums; white-space: pre; color: var(--flint-soft); background: color-mix(in srgb, var(--flint-ground) 82%, transparent); }
.flint-corner { position: absolute; left: 14px; bottom: 14px; max-width: min(260px, calc(100% - 28px)); max-height: calc(100% - 28px); overflow: auto; pointer-events: auto; }
.flint-legend .flint-title { margin: 0 0 4px; font: 600 14px/1.3 var(--flint-font, "Noto Sans", system-ui, sans-serif); }
.flint-legend .flint-heading { margin: 12px 0 5px; font: 500 11px/1.3 var(--flint-font, "Noto Sans", system-ui, sans-serif); letter-spacing: .09em; text-transform: uppercase; color: var(--flint-soft, #56666f); }
.flint-legend .flint-heading:first-child { margin-top: 0; }
.flint-legend ul, .flint-legend ol { margin: 0; padding: 0; list-style: none; }
.flint-legend ul + ul { margin-top: 2px; }
.flint-legend li { display: flex; align-items: center; gap: 9px; min-height: 22px; }
.flint-legend .flint-heading + ul { margin-top: 0; }
.flint-swatch { flex: none; display: block; }
.flint-bar { display: block; width: 100%; height: 14px; }
.flint-ends { display: flex; justify-content: space-between; margin-top: 3px; }
.flint-legend .flint-classes { display: flex; min-width: 190px; margin-bottom: 4px; }
.flint-legend .flint-classes li { flex: 1; display: block; position: relative; min-height: 32px; }
.flint-legend .flint-classes span { position: absolute; left: 0; top: 17px; transform: translateX(-50%); white-space: nowrap; }
@media (forced-colors: active) {
  .flint-card { border: 1px solid; }
  .flint-canvas:focus-visible ~ .flint-focus { outline: 3px solid Highlight; outline-offset: -3px; }
  .flint-stop::after, .flint-bar-line { forced-color-adjust: none; }
}
@media print {
  .flint-print { display: block; position: absolute; inset: 0; width: 100%; height: 100%; object-fit: cover; }
  .flint-canvas, .flint-rail, .flint-own, .flint-toggle, .flint-position, .flint-focus { display: none; }
}
`;

/** Gives the document or shadow root of the map its style, once. */
export const dress = (host: Element): void => wear(host, css);
