/** The style of legends. */
export const legendStyle = `
.flint-seated { position: absolute; width: max-content; max-width: min(260px, calc(100% - 28px)); overflow: auto; pointer-events: auto; }
.flint-legend .flint-title { margin: 0 0 6px; font: 600 16px/1.3 var(--flint-font, "Noto Sans", system-ui, sans-serif); }
.flint-legend .flint-heading { margin: 20px 0 6px; font: 500 11px/1.3 var(--flint-font, "Noto Sans", system-ui, sans-serif); letter-spacing: .09em; text-transform: uppercase; color: var(--flint-soft, #56666f); }
.flint-legend .flint-heading:first-child { margin-top: 0; }
.flint-legend .flint-heading span { text-transform: none; }
.flint-legend .flint-subject { margin: -3px 0 5px; font: 400 12px/1.3 var(--flint-font, "Noto Sans", system-ui, sans-serif); color: var(--flint-soft, #56666f); }
.flint-legend ul, .flint-legend ol { margin: 0; padding: 0; list-style: none; }
.flint-legend ul + ul { margin-top: 2px; }
.flint-legend li { display: flex; align-items: center; gap: 9px; min-height: 22px; }
.flint-legend .flint-heading + ul { margin-top: 0; }
.flint-swatch { flex: none; display: block; }
.flint-bar { display: block; width: 100%; height: 14px; }
.flint-ends { display: flex; justify-content: space-between; margin: 3px 0 5px; }
.flint-legend .flint-classes { display: flex; min-width: 190px; margin-bottom: 4px; }
.flint-legend .flint-classes li { flex: 1; display: block; position: relative; min-height: 32px; }
.flint-legend .flint-classes span { position: absolute; inset-inline-start: 0; top: 17px; transform: translateX(-50%); white-space: nowrap; }
.flint-legend .flint-classes li:first-child span:not(.flint-highest) { transform: none; }
.flint-legend .flint-classes .flint-highest { inset-inline: auto 0; transform: none; }
.flint-legend span { unicode-bidi: plaintext; }
/* A bar runs the way its texts do. */
.flint-legend:dir(rtl) .flint-ramp .flint-bar { transform: scaleX(-1); }
.flint-legend:dir(rtl) .flint-classes li:not(:first-child) span:not(.flint-highest) { transform: translateX(50%); }
`;
