/** The style of the list of what is in view while it is open, and of the ring round what is chosen. */
export const keyboardStyle = `
.flint-list { position: absolute; z-index: 2; width: min(270px, calc(100% - 28px)); max-height: 200px; overflow: auto; pointer-events: auto; background: var(--flint-ground); border: 1px solid var(--flint-line); border-inline-start: 4px solid var(--flint-amber); clip-path: polygon(0 0, calc(100% - 14px) 0, 100% 14px, 100% 100%, 0 100%); outline: none; }
.flint-list [role=option] { min-height: 24px; padding: 3px 14px; cursor: pointer; overflow: hidden; text-overflow: ellipsis; }
.flint-list [aria-selected=true] { background: color-mix(in srgb, var(--flint-amber) 26%, var(--flint-ground)); box-shadow: inset 0 0 0 1px var(--flint-amber); }
.flint-ring { position: absolute; z-index: 0; left: -30px; top: -30px; width: 60px; height: 60px; pointer-events: none; background: var(--flint-ground); clip-path: polygon(evenodd, 50% 0, 96% 25%, 96% 75%, 50% 100%, 4% 75%, 4% 25%, 50% 0, 50% 13%, 15% 32%, 15% 68%, 50% 87%, 85% 68%, 85% 32%, 50% 13%); }
.flint-ring::after { content: ""; position: absolute; inset: 0; background: var(--flint-ink); clip-path: polygon(evenodd, 50% 3%, 93% 27%, 93% 73%, 50% 97%, 7% 73%, 7% 27%, 50% 3%, 50% 10%, 12% 30%, 12% 70%, 50% 90%, 88% 70%, 88% 30%, 50% 10%); }
`;
