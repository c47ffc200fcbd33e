/** The style of the list of what is in view while it is open, and of the ring round what is chosen. */
export const keyboardStyle = `
.flint-list { position: absolute; z-index: 2; inset-inline-start: 14px; bottom: max(48px, calc(var(--flint-foot, 0px) + 8px)); width: min(270px, calc(100% - 28px)); max-height: 200px; overflow: auto; pointer-events: auto; background: var(--flint-ground); border: 1px solid var(--flint-line); border-inline-start: 4px solid var(--flint-amber); clip-path: polygon(0 0, calc(100% - 14px) 0, 100% 14px, 100% 100%, 0 100%); outline: none; }
.flint-list [role=option] { min-height: 24px; padding: 3px 14px; cursor: pointer; overflow: hidden; text-overflow: ellipsis; }
.flint-list [aria-selected=true] { background: color-mix(in srgb, var(--flint-amber) 26%, var(--flint-ground)); box-shadow: inset 0 0 0 1px var(--flint-amber); }
.flint-ring { position: absolute; left: -19px; top: -19px; width: 38px; height: 38px; pointer-events: none; outline: 2px solid var(--flint-ground); background: var(--flint-ink); clip-path: polygon(evenodd, 50% 0, 96% 25%, 96% 75%, 50% 100%, 4% 75%, 4% 25%, 50% 0, 50% 9%, 12% 30%, 12% 70%, 50% 91%, 88% 70%, 88% 30%, 50% 9%); }
`;
