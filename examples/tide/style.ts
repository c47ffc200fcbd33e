/** The style of the chart's frame, cartouche and clock. It is a text in the script, so that a published page has it too. */
export const style = `
.one-tide { --paper: #f7f0dd; --ink: #1d2a33; --soft: #55615f; --amber: #c97a1c; }
.one-tide[data-color-scheme="dark"] { --paper: #131d25; --ink: #e8e4d6; --soft: #a9b6bb; --amber: #f0ad54; }
.one-tide .chart-frame { position: absolute; inset: 0; width: 100%; height: 100%; pointer-events: none; z-index: 1; }
.one-tide .chart-frame .margin { fill: var(--paper); fill-rule: evenodd; }
.one-tide .chart-frame .line { fill: none; stroke: var(--ink); stroke-width: 1; }
.one-tide .chart-frame .outer { stroke-width: 1.8; }
.one-tide .chart-frame .minute { fill: var(--ink); }
.one-tide .chart-frame .tick { stroke: var(--ink); stroke-width: 1; }
.one-tide .chart-frame text { font: 500 9.5px/1 "Noto Serif", Georgia, serif; fill: var(--ink); text-anchor: middle; dominant-baseline: central; }
.one-tide .rose { position: absolute; right: 44px; top: 44px; width: 132px; height: 132px; pointer-events: none; z-index: 1; opacity: .86; }
.one-tide .rose :is(.tick, .ring) { fill: none; stroke: var(--ink); stroke-width: .8; }
.one-tide .rose .dark { fill: var(--ink); }
.one-tide .rose .pale { fill: var(--paper); stroke: var(--ink); stroke-width: .6; stroke-linejoin: round; }
.one-tide .rose text { font: 600 9px/1 "Noto Serif", Georgia, serif; fill: var(--ink); text-anchor: middle; }
.cartouche { position: absolute; left: 44px; top: 42px; z-index: 1; padding: 14px 26px 13px; text-align: center; color: var(--ink); background: color-mix(in srgb, var(--paper) 92%, transparent); border: 1px solid var(--ink); outline: 1px solid var(--ink); outline-offset: 3px; font-family: "Noto Serif", Georgia, serif; pointer-events: none; }
.cartouche h1 { margin: 0; font-size: 23px; font-weight: 500; letter-spacing: .14em; text-transform: uppercase; }
.cartouche p { margin: 2px 0 0; font-size: 13px; font-style: italic; }
.cartouche small { display: block; margin-top: 6px; padding-top: 6px; border-top: 1px solid var(--ink); font-size: 10.5px; letter-spacing: .03em; color: var(--soft); }
.tide-clock { position: absolute; left: 50%; bottom: 38px; z-index: 1; transform: translateX(-50%); box-sizing: border-box; width: min(700px, calc(100% - 76px)); display: grid; grid-template-columns: auto 1fr auto; gap: 0 16px; align-items: center; padding: 8px 18px 8px 8px; color: var(--ink); background: var(--paper); border: 1px solid var(--ink); clip-path: polygon(0 0, calc(100% - 14px) 0, 100% 14px, 100% 100%, 0 100%); font: 13px/1.35 "Noto Sans", system-ui, sans-serif; }
.tide-clock button { width: 44px; height: 44px; padding: 10px; border: 0; background: none; color: inherit; cursor: pointer; }
.tide-clock button:focus-visible, .tide-clock input:focus-visible { outline: 2px solid var(--amber); outline-offset: -2px; }
.tide-clock button svg { display: block; width: 100%; height: 100%; fill: currentColor; }
.tide-course { position: relative; height: 46px; }
.tide-course svg { position: absolute; inset: 0; width: 100%; height: 100%; overflow: visible; }
.tide-course .water { fill: color-mix(in srgb, #3d87a8 26%, transparent); }
.tide-course .curve { fill: none; stroke: var(--ink); stroke-width: 1.4; vector-effect: non-scaling-stroke; }
.tide-course input { position: absolute; left: -7px; top: 0; width: calc(100% + 14px); height: 100%; margin: 0; appearance: none; background: none; cursor: ew-resize; }
.tide-course input::-webkit-slider-runnable-track { height: 100%; background: none; }
.tide-course input::-webkit-slider-thumb { appearance: none; width: 14px; height: 46px; border: 0; background: linear-gradient(var(--amber), var(--amber)) center / 2px 100% no-repeat; }
.tide-course input::-moz-range-thumb { width: 14px; height: 46px; border: 0; border-radius: 0; background: linear-gradient(var(--amber), var(--amber)) center / 2px 100% no-repeat; }
.tide-course i { position: absolute; width: 11px; height: 11px; margin: -5.5px; background: var(--amber); border-radius: 50%; box-shadow: 0 0 0 2px var(--paper); pointer-events: none; }
.tide-clock output { min-width: 104px; font-variant-numeric: tabular-nums; }
.tide-clock output b { display: block; font-size: 20px; line-height: 1.1; font-weight: 600; }
.tide-clock output span { color: var(--soft); }
.one-tide .flint-credit { translate: -26px -26px; }
.one-tide .flint-rail { translate: -20px 0; }
.one-tide .flint-scale { translate: 26px -26px; background: none; }
@media (max-width: 700px), (max-height: 560px) {
  .one-tide .rose { display: none; }
  .cartouche { left: 28px; top: 28px; padding: 8px 14px; }
  .cartouche h1 { font-size: 15px; }
  .cartouche p { font-size: 12px; }
  .cartouche small { display: none; }
  .tide-clock { bottom: 46px; width: calc(100% - 48px); gap: 0 8px; padding-right: 12px; }
  .tide-clock output { min-width: 82px; }
}
@media (forced-colors: active) { .tide-course i { forced-color-adjust: none; } }
@media print { .tide-clock { display: none; } }
`;
