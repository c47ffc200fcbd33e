/** The style of buttons, the rail, the drawer, the scale bar and the position. */
export const controlStyle = `
.flint-own .flint-card > div { padding: 3px 2px; }
.flint-control { position: absolute; z-index: 1; color: var(--flint-ink); }
.flint-control button:not(:where(.flint-given *)) { display: block; width: 34px; height: 32px; padding: 5px; border: 0; background: none; color: inherit; cursor: pointer; }
.flint-control button:not(:where(.flint-given *)) svg { display: block; width: 100%; height: 100%; fill: currentColor; }
.flint-control button:not(:where(.flint-given *)):hover { color: color-mix(in srgb, var(--flint-ink) 55%, var(--flint-amber)); }
.flint-control button:focus-visible, .flint-control input:focus-visible, .flint-stop:focus-visible { outline: 2px solid var(--flint-amber); outline-offset: -2px; }
.flint-rail { display: flex; flex-direction: column; pointer-events: none; }
.flint-rail .flint-card { min-height: 0; overflow: hidden auto; scrollbar-width: none; }
.flint-low .flint-track { display: none; }
.flint-rail .flint-card { clip-path: polygon(0 0, calc(100% - 14px) 0, 100% 14px, 100% 100%, 0 100%); }
.flint-rail .flint-card > div { padding: 6px 3px; clip-path: polygon(0 0, calc(100% - 13.6px) 0, 100% 13.6px, 100% 100%, 0 100%); }
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
.flint-drawer .flint-heading { margin: 20px 0 6px; font: 500 11px/1.3 var(--flint-font); letter-spacing: .09em; text-transform: uppercase; color: var(--flint-soft); }
.flint-drawer .flint-heading:first-child { margin-top: 0; }
.flint-drawer .flint-given + .flint-layers > .flint-heading { margin-top: 20px; }
.flint-drawer .flint-toggle { background: var(--flint-ground); width: 28px; }
.flint-drawer .flint-peek { display: none; }
.flint-narrow .flint-drawer { flex-direction: column; align-items: stretch; width: 100%; padding-bottom: env(safe-area-inset-bottom); filter: var(--flint-shadow); }
.flint-narrow .flint-drawer > .flint-card { flex: 0 1 auto; min-height: 0; width: 100%; box-sizing: border-box; padding: 0; clip-path: none; background: var(--flint-ground); overscroll-behavior: contain; }
.flint-narrow .flint-drawer > .flint-card > div { padding-top: 2px; clip-path: none; }
.flint-narrow .flint-drawer > .flint-card > div > .flint-title { display: none; }
.flint-narrow .flint-drawer .flint-toggle { order: -1; flex: none; display: flex; align-items: center; justify-content: space-between; gap: 12px; width: 100%; height: 56px; padding: 0 22px 0 14px; text-align: start; touch-action: none; clip-path: polygon(0 0, calc(100% - 14px) 0, 100% 14px, 100% 100%, 0 100%); }
.flint-narrow .flint-drawer .flint-toggle svg { width: 24px; height: 24px; transform: rotate(-90deg); }
.flint-narrow .flint-drawer.flint-shut .flint-toggle svg { transform: rotate(90deg); }
.flint-narrow .flint-peek { display: block; overflow: hidden; font: 600 16px/1.3 var(--flint-font); text-overflow: ellipsis; white-space: nowrap; }
.flint:not(.flint-narrow) .flint-shut .flint-toggle svg { transform: scaleX(-1); }
.flint:dir(rtl) .flint-track, .flint:dir(rtl):not(.flint-narrow) .flint-toggle svg { transform: scaleX(-1); }
.flint:dir(rtl):not(.flint-narrow) .flint-shut .flint-toggle svg { transform: none; }
.flint-narrow:dir(rtl) .flint-drawer .flint-toggle { clip-path: polygon(14px 0, 100% 0, 100% 100%, 0 100%, 0 14px); }
.flint:dir(ltr):not(.flint-narrow) .flint-drawer[data-seat$="right"], .flint:dir(rtl):not(.flint-narrow) .flint-drawer[data-seat$="left"] { flex-direction: row-reverse; }
.flint:dir(ltr):not(.flint-narrow) .flint-drawer[data-seat$="right"] .flint-toggle, .flint:dir(rtl):not(.flint-narrow) .flint-drawer[data-seat$="left"] .flint-toggle { transform: scaleX(-1); }
.flint:dir(rtl) .flint-rail .flint-card { clip-path: polygon(14px 0, 100% 0, 100% 100%, 0 100%, 0 14px); }
.flint:dir(rtl) .flint-rail .flint-card > div { clip-path: polygon(13.6px 0, 100% 0, 100% 100%, 0 100%, 0 13.6px); }
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
.flint-drawer .flint-legend { margin-top: 20px; }
.flint-scale { padding: 5px 18px 13px; font-size: 12px; background: color-mix(in srgb, var(--flint-ground) 90%, transparent); pointer-events: none; }
.flint-bar-line { height: 6px; margin-top: 2px; border: solid var(--flint-ink); border-width: 0 1.5px 1.5px; }
.flint-position { max-width: calc(100% - 20px); overflow: hidden; text-overflow: ellipsis; padding: 2px 10px 3px; font-size: 11px; font-variant-numeric: tabular-nums; white-space: pre; color: var(--flint-soft); background: color-mix(in srgb, var(--flint-ground) 82%, transparent); }
/* Fingers need 44 pixels; they zoom by pinching, so the track gives its room to what is left. */
@media (pointer: coarse) {
  .flint-control button:not(:where(.flint-given *)) { width: 44px; height: 44px; padding: 10px; }
  .flint-own .flint-card > div { padding: 0; }
  .flint-rail .flint-card > div { padding-inline: 0; }
  .flint-rail .flint-track { display: none; }
  .flint-control .flint-view, .flint-layer { min-height: 44px; }
  .flint-layer label { flex: 1; min-height: 44px; }
  .flint-control input:is([type=checkbox], [type=radio]) { width: 20px; height: 20px; }
  .flint-layer input[type=range] { width: 110px; height: 44px; }
  .flint-layer input[type=range]::-webkit-slider-thumb { width: 16px; height: 26px; margin-top: -13px; }
  .flint-layer input[type=range]::-moz-range-thumb { width: 15px; height: 25px; }
  .flint-popup button, .flint-notice button { min-width: 44px; min-height: 44px; }
}
@media (forced-colors: active) { .flint-stop::after, .flint-bar-line { forced-color-adjust: none; } }
@media print { .flint-rail, .flint-own, .flint-toggle, .flint-position { display: none; } }
`;
