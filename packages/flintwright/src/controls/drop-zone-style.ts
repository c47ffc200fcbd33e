/** The style of drop zones. */
export const dropZoneStyle = `
.flint-files { display: flex; flex-direction: column; align-items: center; gap: 8px; pointer-events: none; z-index: 2; }
.flint-files[data-seat$="start"], .flint:dir(ltr) .flint-files[data-seat$="left"], .flint:dir(rtl) .flint-files[data-seat$="right"] { align-items: flex-start; }
.flint-files[data-seat$="end"], .flint:dir(ltr) .flint-files[data-seat$="right"], .flint:dir(rtl) .flint-files[data-seat$="left"] { align-items: flex-end; }
.flint-files > .flint-card { flex: none; }
.flint-files > .flint-card > div { padding: 3px 2px; }
@media (pointer: coarse) { .flint-files > .flint-card > div { padding: 0; } .flint-control .flint-act, .flint-file input, .flint-file select { min-height: 44px; } }
.flint-files > .flint-card button { display: flex; align-items: center; gap: 6px; width: auto; padding: 5px 16px 5px 9px; font: inherit; }
.flint-files > .flint-card button svg { width: 20px; height: 20px; }
.flint-files:has(.flint-file) { width: min(340px, calc(100% - 90px)); }
.flint-file-list { display: flex; flex-direction: column; gap: 8px; overflow: auto; scrollbar-width: thin; }
.flint-file { flex: none; border-inline-start: 4px solid var(--flint-amber); }
.flint-file[data-state="failed"] { border-inline-start-color: #b8402a; }
.flint-file summary { cursor: pointer; list-style-position: outside; margin-inline-start: 14px; }
.flint-file summary:focus-visible { outline: 2px solid var(--flint-amber); outline-offset: 2px; }
.flint-file details[open] summary { margin-bottom: 4px; }
.flint-file + .flint-file details:not([open]) p { display: none; }
.flint-file > div { padding: 9px 14px 10px; }
.flint-file :is(h3, p, li, small) { unicode-bidi: plaintext; text-align: -webkit-match-parent; text-align: match-parent; }
.flint-file h3 { margin-block: 0 2px; margin-inline: 0 18px; font: 600 14px/1.3 var(--flint-font); overflow-wrap: anywhere; }
.flint-file p { margin: 0; color: var(--flint-soft); }
.flint-file p b, .flint-file li b { display: block; font-weight: 500; color: var(--flint-ink); overflow-wrap: anywhere; }
.flint-file em { font-style: normal; display: block; }
.flint-file ul { margin: 6px 0; padding: 6px 0 0; list-style: none; border-top: 1px solid var(--flint-line); max-height: 170px; overflow: auto; color: var(--flint-soft); }
.flint-file li + li { margin-top: 7px; }
.flint-file small { display: block; font-size: 11px; overflow-wrap: anywhere; }
.flint-file progress { display: block; width: 100%; height: 4px; margin: 4px 0 8px; accent-color: var(--flint-amber); }
.flint-control .flint-act { display: inline-block; width: auto; height: auto; min-height: 28px; margin-block: 4px 0; margin-inline: 0 8px; padding: 2px 10px; border: 1px solid var(--flint-line); font: inherit; }
.flint-control .flint-act:hover { border-color: var(--flint-amber); }
.flint-file form { margin-top: 6px; }
.flint-systems .flint-act { display: block; width: 100%; margin-inline: 0; text-align: start; }
.flint-file label { display: block; color: var(--flint-soft); }
.flint-file img { float: inline-end; width: 34px; height: 34px; margin-block: 0 4px; margin-inline: 8px 0; object-fit: contain; }
.flint-file input, .flint-file select { display: block; box-sizing: border-box; width: 100%; min-height: 28px; margin-top: 2px; padding: 2px 8px; font: inherit; color: var(--flint-ink); background: none; border: 1px solid var(--flint-soft); }
.flint-file option { color: #22303a; background: #f7f5ef; }
.flint-veil { position: absolute; inset: 0; z-index: 3; display: grid; place-items: center; background: rgb(34 48 58 / 72%); pointer-events: none; }
.flint-veil[hidden] { display: none; }
.flint-veil > div { display: grid; gap: 6px; padding: 26px 34px; text-align: center; color: #f7f5ef; outline: 2px dashed #e5a04a; outline-offset: -2px; }
.flint-veil b { font: 600 19px/1.3 var(--flint-font); }
`;
