/** The style of drawing: the bar, the handles, the form. */
export const drawStyle = `
.flint-hand { position: absolute; inset: 0; width: 100%; height: 100%; pointer-events: none; touch-action: none; overflow: hidden; z-index: 1; }
.flint-hand .flint-shape { fill: color-mix(in srgb, #d98a2b 16%, transparent); stroke: #22303a; stroke-width: 4; stroke-linejoin: round; paint-order: stroke; pointer-events: none; }
.flint-hand .flint-shape + .flint-shape { fill: none; stroke: #f2a33c; stroke-width: 2; }
.flint-hand [data-line] { fill: none; }
.flint-hand .flint-body { fill: transparent; stroke: transparent; stroke-width: 14; pointer-events: all; cursor: move; touch-action: none; }
.flint-hand [data-line].flint-body { fill: none; pointer-events: stroke; }
.flint-hand .flint-sketch { fill: color-mix(in srgb, #d98a2b 14%, transparent); stroke: #22303a; stroke-width: 3.4; stroke-linejoin: round; }
.flint-hand .flint-sketch + .flint-sketch { fill: none; stroke: #f7f5ef; stroke-width: 1.4; stroke-dasharray: 5 4; }
.flint-handle { pointer-events: all; cursor: grab; touch-action: none; outline: none; }
.flint-handle:active { cursor: grabbing; }
.flint-handle .flint-reach { fill: transparent; }
.flint-handle .flint-dot { fill: #f7f5ef; stroke: #22303a; stroke-width: 1.6; }
.flint-handle[data-kind="middle"] .flint-dot { fill: #22303a; stroke: #f7f5ef; stroke-width: 1.2; opacity: .72; }
.flint-handle[data-kind="turn"] .flint-dot, .flint-handle[data-kind="scale"] .flint-dot { fill: #f2a33c; }
.flint-handle:hover .flint-dot, .flint-handle:focus-visible .flint-dot { fill: #f2a33c; opacity: 1; }
.flint-handle:focus-visible .flint-reach { fill: none; stroke: #f7f5ef; stroke-width: 3; }
.flint-handle:focus-visible .flint-ringed { fill: none; stroke: #22303a; stroke-width: 1.5; }
.flint-ringed { fill: none; stroke: none; pointer-events: none; }
.flint-arm { stroke: #22303a; stroke-width: 1.4; stroke-dasharray: 3 3; fill: none; }
.flint-set { fill: #f7f5ef; stroke: #22303a; stroke-width: 1.6; }
.flint-set:first-of-type { fill: #f2a33c; }
.flint-cross { fill: none; stroke: #22303a; stroke-width: 1.5; }
.flint-cross-rim { fill: none; stroke: #f7f5ef; stroke-width: 3.5; }
.flint-snapped { fill: none; stroke: #b8402a; stroke-width: 2; }
.flint-trouble { fill: color-mix(in srgb, #b8402a 20%, transparent); stroke: #b8402a; stroke-width: 2.5; }
.flint-tag { font: 600 12px/1 var(--flint-font); fill: #22303a; stroke: #f7f5ef; stroke-width: 4; paint-order: stroke; stroke-linejoin: round; }
.flint-draw { width: max-content; max-width: calc(100% - 20px); z-index: 2; }
.flint-draw > .flint-card > div { padding: 3px 4px; }
.flint-bar-row { display: flex; flex-wrap: wrap; align-items: center; justify-content: center; }
.flint-bar-row > div { display: flex; }
.flint-bar-row > div + div { margin-inline-start: 4px; padding-inline-start: 4px; border-inline-start: 1px solid color-mix(in srgb, var(--flint-line) 60%, transparent); }
.flint-draw button[aria-pressed="true"] { background: var(--flint-ink); color: var(--flint-ground); }
/* A tool in hand is filled; a switch that is on is underlined. */
.flint-draw .flint-switch { position: relative; opacity: .6; }
.flint-draw .flint-switch[aria-pressed="true"] { background: none; color: var(--flint-ink); opacity: 1; }
.flint-draw .flint-switch::after { content: ""; position: absolute; inset-inline: 7px; bottom: 1px; height: 4px; box-sizing: border-box; border: 1px solid var(--flint-soft); }
.flint-draw .flint-switch[aria-pressed="true"]::after { background: var(--flint-amber); border-color: var(--flint-amber); }
.flint-draw button[aria-disabled="true"] { opacity: .32; cursor: default; color: inherit; }
.flint-draw-say { display: flex; flex-wrap: wrap; gap: 2px 14px; align-items: center; justify-content: space-between; padding: 3px 8px 4px; font-size: 12.5px; color: var(--flint-soft); border-bottom: 1px solid color-mix(in srgb, var(--flint-line) 60%, transparent); margin-bottom: 3px; }
.flint-draw-say[hidden] { display: none; }
.flint-draw-say p { margin: 0; max-width: 46em; }
.flint-draw-say b { color: var(--flint-ink); font-weight: 600; font-variant-numeric: tabular-nums; }
.flint-draw-say .flint-wrong { color: #b8402a; font-weight: 600; }
.flint[data-color-scheme="dark"] .flint-draw-say .flint-wrong { color: #ff9c86; }
.flint-draw-say b, .flint-measure .flint-draw-say p { unicode-bidi: plaintext; text-align: -webkit-match-parent; text-align: match-parent; }
.flint-draw-say form { display: flex; gap: 4px; margin: 0; }
.flint-draw-say form[hidden] { display: none; }
.flint-draw-say input { width: 190px; height: 26px; box-sizing: border-box; padding: 0 7px; border: 1px solid var(--flint-line); background: none; color: var(--flint-ink); font: 12.5px/1 var(--flint-font); }
.flint-control .flint-enter { width: auto; height: 26px; padding: 0 10px; border: 1px solid var(--flint-line); font: inherit; }
.flint-measure .flint-draw-say { border: 0; margin: 0; width: 250px; }
.flint-measure .flint-draw-say p { flex: 1; color: var(--flint-ink); font-variant-numeric: tabular-nums; }
.flint-measure select { height: 26px; border: 1px solid var(--flint-line); border-radius: 0; background: var(--flint-ground); color: var(--flint-ink); font: 12.5px/1 var(--flint-font); }
.flint-measure .flint-card > div { display: flex; align-items: center; flex-direction: row-reverse; }
.flint-measure button[aria-pressed="true"] { background: var(--flint-ink); color: var(--flint-ground); }
.flint-draw-panel { overflow: auto; z-index: 3; }
.flint-forming .flint-file-list { display: none; }
.flint-hand .flint-other { fill: none; stroke: #1f6f9f; stroke-width: 2.4; stroke-dasharray: 6 4; pointer-events: none; }
.flint[data-color-scheme="dark"] .flint-hand .flint-other { stroke: #7cc4ec; }
.flint-deciding :is(.flint-draw-panel:not(.flint-conflict), .flint-file-list) { display: none; }
:is(.flint-conflict, .flint-choice) { z-index: 4; width: 270px; }
:is(.flint-conflict, .flint-choice) h2 { margin: 0 0 4px; font: 600 16px/1.3 var(--flint-font); }
:is(.flint-conflict, .flint-choice) p { margin: 0 0 6px; color: var(--flint-soft); }
.flint-conflict table { width: 100%; margin: 0 0 8px; border-collapse: collapse; font-size: 13px; }
.flint-conflict :is(th, td) { padding-block: 2px; padding-inline: 0 8px; border-bottom: 1px solid var(--flint-line); text-align: start; font-weight: 400; overflow-wrap: anywhere; }
.flint-conflict th { color: var(--flint-soft); }
.flint-conflict td + td { color: #1f6f9f; }
.flint[data-color-scheme="dark"] .flint-conflict td + td { color: #7cc4ec; }
.flint-conflict-row { display: flex; gap: 8px; }
.flint-control .flint-conflict-row button { width: auto; height: auto; min-height: 30px; padding: 0 14px; border: 1px solid var(--flint-ink); font: 500 13px/1 var(--flint-font); cursor: pointer; }
.flint-draw-panel:empty { display: none; }
.flint-draw-panel > .flint-card { border-inline-start: 4px solid var(--flint-amber); padding-inline-start: 0; }
.flint-form-head { display: flex; align-items: center; justify-content: space-between; margin-block: -4px 0; margin-inline: 0 4px; }
.flint-form-head h2 { margin: 0; font: 600 16px/1.3 var(--flint-font); }
.flint-form-head button { width: 30px; height: 30px; padding: 7px; }
.flint-form { display: grid; gap: 8px; width: 232px; margin: 8px 0 0; }
.flint-form label { display: grid; gap: 2px; font-size: 12px; color: var(--flint-soft); }
.flint-form input, .flint-form select, .flint-form textarea { width: 100%; box-sizing: border-box; min-height: 30px; padding: 4px 7px; border: 1px solid var(--flint-line); border-radius: 0; background: var(--flint-ground); color: var(--flint-ink); font: 14px/1.3 var(--flint-font); }
.flint-form label.flint-tick { grid-template-columns: 18px 1fr; align-items: center; gap: 8px; color: var(--flint-ink); font-size: 13px; }
.flint-form label.flint-tick input { width: 16px; min-height: 16px; accent-color: #b46c15; }
.flint-icon-field { display: flex; align-items: center; gap: 8px; color: var(--flint-ink); }
.flint-icon-field > span { flex: none; width: 26px; height: 26px; }
.flint-icon-field :is(svg, img) { display: block; width: 100%; height: 100%; object-fit: contain; }
.flint-form small { color: #b8402a; font-weight: 600; }
.flint[data-color-scheme="dark"] .flint-form small { color: #ff9c86; }
.flint-form small:empty { display: none; }
.flint[data-color-scheme="dark"] .flint-form, .flint[data-color-scheme="dark"] .flint-draw-say { color-scheme: dark; }
.flint-control .flint-form button { width: auto; height: auto; min-height: 30px; padding: 0 14px; justify-self: start; border: 1px solid var(--flint-ink); background: var(--flint-ink); color: var(--flint-ground); font: 500 13px/1 var(--flint-font); cursor: pointer; }
.flint-form :focus-visible { outline: 2px solid var(--flint-amber); outline-offset: 1px; }
.flint-narrow .flint-draw .flint-bar-row button { width: 36px; height: 36px; padding: 7px; }
@media (pointer: coarse) { .flint-narrow .flint-draw .flint-bar-row button, .flint-form-head button { width: 44px; height: 44px; padding: 10px; } .flint-form input, .flint-form select, .flint-control .flint-form button, .flint-control .flint-conflict-row button, .flint-draw-say input, .flint-control .flint-enter { min-height: 44px; } }
.flint-narrow.flint-forming > :is(.flint-draw, .flint-rail, .flint-files, .flint-drawer) { display: none; }
.flint-narrow .flint-draw-panel { width: calc(100% - 20px); box-sizing: border-box; }
.flint-narrow .flint-draw-panel .flint-form { width: auto; grid-template-columns: 1fr 1fr; }
.flint-narrow .flint-draw-say form { flex: 1; }
.flint-narrow .flint-bar-row > div + div { margin-inline-start: 0; padding-inline-start: 0; border-inline-start: 0; }
@media (forced-colors: active) { .flint-draw button[aria-pressed="true"] { outline: 2px solid Highlight; outline-offset: -2px; } }
@media print { .flint-draw, .flint-hand { display: none; } }
`;
