/** The style of buttons, the rail, the drawer, the scale bar and the position. */
export const controlStyle = `
.flint-own .flint-card > div { padding: 2px; }
.flint-control { position: absolute; z-index: 1; color: var(--flint-ink); }
.flint-control button { display: block; width: 34px; height: 32px; padding: 5px; border: 0; background: none; color: inherit; cursor: pointer; }
.flint-control button svg { display: block; width: 100%; height: 100%; fill: currentColor; }
.flint-control button:hover { color: color-mix(in srgb, var(--flint-ink) 55%, var(--flint-amber)); }
.flint-control button:focus-visible, .flint-control input:focus-visible, .flint-stop:focus-visible { outline: 2px solid var(--flint-amber); outline-offset: -2px; }
.flint-rail { display: flex; flex-direction: column; pointer-events: none; }
.flint-rail .flint-card { min-height: 0; overflow: hidden auto; scrollbar-width: none; }
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
.flint-drawer { display: flex; align-items: flex-start; }
.flint-drawer .flint-card { width: 250px; max-height: inherit; overflow: auto; }
.flint-drawer .flint-card[hidden] { display: none; }
.flint-drawer .flint-title { margin-block: 0 8px; margin-inline: 0 14px; font: 600 16px/1.3 var(--flint-font); }
.flint-drawer .flint-heading { margin: 10px 0 4px; font: 500 11px/1.3 var(--flint-font); letter-spacing: .09em; text-transform: uppercase; color: var(--flint-soft); }
.flint-drawer .flint-heading:first-child { margin-top: 0; }
.flint-drawer .flint-toggle { background: var(--flint-ground); width: 28px; }
.flint-shut .flint-toggle svg { transform: scaleX(-1); }
.flint:dir(rtl) .flint-track, .flint:dir(rtl) .flint-toggle svg { transform: scaleX(-1); }
.flint:dir(rtl) .flint-shut .flint-toggle svg { transform: none; }
.flint:dir(ltr) .flint-drawer[data-seat$="right"], .flint:dir(rtl) .flint-drawer[data-seat$="left"] { flex-direction: row-reverse; }
.flint:dir(ltr) .flint-drawer[data-seat$="right"] .flint-toggle, .flint:dir(rtl) .flint-drawer[data-seat$="left"] .flint-toggle { transform: scaleX(-1); }
.flint:dir(rtl) .flint-rail .flint-card { clip-path: polygon(12px 0, 100% 0, 100% 100%, 0 100%, 0 12px); }
.flint:dir(rtl) .flint-rail .flint-card > div { clip-path: polygon(11.6px 0, 100% 0, 100% 100%, 0 100%, 0 11.6px); }
.flint-scale span, .flint-position { unicode-bidi: plaintext; }
.flint-layer { display: flex; align-items: center; justify-content: space-between; gap: 10px; min-height: 26px; }
.flint-layer label { display: flex; gap: 8px; align-items: center; min-height: 24px; min-width: 0; }
.flint-layer small { font-size: 11px; color: var(--flint-soft); }
.flint-layer[data-state="failed"] small { color: #b8402a; }
.flint-control .flint-view { display: block; width: 100%; height: auto; min-height: 26px; padding: 3px 8px; margin-top: 3px; text-align: start; font: inherit; border: 1px solid var(--flint-line); }
.flint-control .flint-view:hover { border-color: var(--flint-amber); }
.flint-control input { accent-color: #b46c15; }
.flint-layer input[type=range] { appearance: none; width: 78px; height: 24px; margin: 0; background: none; }
.flint-layer input[type=range]::-webkit-slider-runnable-track { height: 1px; background: var(--flint-soft); }
.flint-layer input[type=range]::-moz-range-track { height: 1px; background: var(--flint-soft); }
.flint-layer input[type=range]::-webkit-slider-thumb { appearance: none; width: 8px; height: 16px; margin-top: -8px; background: var(--flint-amber); border: 1px solid var(--flint-ink); border-radius: 0; }
.flint-layer input[type=range]::-moz-range-thumb { width: 7px; height: 15px; background: var(--flint-amber); border: 1px solid var(--flint-ink); border-radius: 0; }
.flint-drawer .flint-legend { margin-top: 12px; }
.flint-scale { padding: 5px 18px 13px; font-size: 12px; background: color-mix(in srgb, var(--flint-ground) 90%, transparent); pointer-events: none; }
.flint-bar-line { height: 6px; margin-top: 2px; border: solid var(--flint-ink); border-width: 0 1.5px 1.5px; }
.flint-position { max-width: calc(100% - 20px); overflow: hidden; text-overflow: ellipsis; padding: 2px 10px 3px; font-size: 11px; font-variant-numeric: tabular-nums; white-space: pre; color: var(--flint-soft); background: color-mix(in srgb, var(--flint-ground) 82%, transparent); }
@media (forced-colors: active) { .flint-stop::after, .flint-bar-line { forced-color-adjust: none; } }
@media print { .flint-rail, .flint-own, .flint-toggle, .flint-position { display: none; } }
`;
