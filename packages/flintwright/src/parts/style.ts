const css = `
.flint { position: relative; overflow: hidden; isolation: isolate; --flint-ground: #f7f5ef; --flint-ink: #22303a; --flint-soft: #56666f; --flint-line: #b9b6aa; --flint-amber: #d98a2b;
  --flint-font: system-ui, "Noto Sans", sans-serif; font: 13px/1.4 var(--flint-font); color: var(--flint-ink); }
.flint[data-look="dark"] { --flint-ground: #1b262e; --flint-ink: #eef0ea; --flint-soft: #a9b6bb; --flint-line: #42525c; --flint-amber: #e5a04a; }
.flint-canvas { position: absolute; inset: 0; width: 100%; height: 100%; display: block; touch-action: none; outline: none; cursor: grab; user-select: none; }
.flint-canvas:active { cursor: grabbing; }
.flint-canvas[data-over] { cursor: pointer; }
.flint-focus { position: absolute; inset: 0; pointer-events: none; }
.flint-canvas:focus-visible + .flint-focus { box-shadow: inset 0 0 0 3px var(--flint-amber); }
.flint-over { position: absolute; inset: 0; overflow: hidden; pointer-events: none; }
.flint-card { pointer-events: auto; background: var(--flint-line); padding: 1px; clip-path: polygon(0 0, calc(100% - 16px) 0, 100% 16px, 100% 100%, 0 100%); }
.flint-card > div { background: var(--flint-ground); color: var(--flint-ink); padding: 12px 14px 13px; clip-path: polygon(0 0, calc(100% - 15.6px) 0, 100% 15.6px, 100% 100%, 0 100%); }
.flint-popup { position: absolute; left: 0; top: 0; width: max-content; max-width: min(300px, calc(100% - 24px)); }
.flint-popup .flint-card { border-left: 4px solid var(--flint-amber); padding-left: 0; }
.flint-popup h2 { margin: 0 26px 2px 0; font: 600 16px/1.3 var(--flint-font); }
.flint-popup p { margin: 0; color: var(--flint-soft); }
.flint-popup dl { margin: 8px 0 0; padding-top: 8px; border-top: 1px solid var(--flint-line); display: grid; grid-template-columns: auto 1fr; gap: 3px 18px; }
.flint-popup dt { color: var(--flint-soft); }
.flint-popup dd { margin: 0; }
.flint-popup button { position: absolute; right: 4px; top: 16px; width: 28px; height: 28px; padding: 0; border: 0; background: none; color: var(--flint-ink); font: 16px/28px var(--flint-font); cursor: pointer; }
.flint-popup button:focus-visible { outline: 2px solid var(--flint-amber); outline-offset: -3px; }
.flint-leader { position: absolute; left: 0; top: 0; width: 100%; height: 100%; overflow: visible; }
.flint-leader line { stroke: var(--flint-amber); stroke-width: 1.5; }
.flint-credit { position: absolute; right: 0; bottom: 0; padding: 2px 10px 3px; font-size: 11px; color: var(--flint-soft); background: color-mix(in srgb, var(--flint-ground) 72%, transparent); }
.flint-notice { position: absolute; left: 12px; bottom: 12px; max-width: min(420px, calc(100% - 24px)); }
.flint-notice .flint-card { border-left: 4px solid #b8402a; padding-left: 0; }
.flint-notice b { display: block; margin-right: 18px; }
.flint-notice ul { margin: 4px 0 0; padding: 0; list-style: none; max-height: 9em; overflow: auto; }
.flint-notice li + li { margin-top: 6px; }
.flint-notice em { font-style: normal; color: var(--flint-soft); }
.flint-notice button { margin-top: 8px; min-height: 26px; padding: 2px 10px; border: 1px solid var(--flint-line); background: none; color: inherit; font: inherit; cursor: pointer; }
.flint-corner { position: absolute; left: 14px; bottom: 14px; max-width: min(260px, calc(100% - 28px)); max-height: calc(100% - 28px); overflow: auto; pointer-events: auto; }
.flint-legend h2 { margin: 0 0 4px; font: 600 14px/1.3 var(--flint-font, system-ui, "Noto Sans", sans-serif); }
.flint-legend h3 { margin: 12px 0 5px; font: 500 11px/1.3 var(--flint-font, system-ui, "Noto Sans", sans-serif); letter-spacing: .09em; text-transform: uppercase; color: var(--flint-soft, #56666f); }
.flint-legend h3:first-child { margin-top: 0; }
.flint-legend ul, .flint-legend ol { margin: 0; padding: 0; list-style: none; }
.flint-legend ul + ul { margin-top: 2px; }
.flint-legend li { display: flex; align-items: center; gap: 9px; min-height: 22px; }
.flint-legend h3 + ul { margin-top: 0; }
.flint-swatch { flex: none; display: block; }
.flint-bar { display: block; width: 100%; height: 14px; }
.flint-ends { display: flex; justify-content: space-between; margin-top: 3px; }
.flint-legend .flint-classes { display: flex; min-width: 190px; margin-bottom: 4px; }
.flint-legend .flint-classes li { flex: 1; display: block; position: relative; min-height: 32px; }
.flint-legend .flint-classes span { position: absolute; left: 0; top: 17px; transform: translateX(-50%); white-space: nowrap; }
@media (forced-colors: active) { .flint-card { border: 1px solid; } }
`;

const dressed = new WeakSet<Document | ShadowRoot>();

/** Gives the document or shadow root of the map its style, once, in a way that needs no inline styles to be allowed. */
export function dress(host: Element): void {
  const root = host.getRootNode() as Document | ShadowRoot;
  if (dressed.has(root) || !('adoptedStyleSheets' in root)) return;
  const sheet = new CSSStyleSheet();
  sheet.replaceSync(css);
  root.adoptedStyleSheets = [...root.adoptedStyleSheets, sheet];
  dressed.add(root);
}
