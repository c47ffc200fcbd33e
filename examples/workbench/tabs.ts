// Tabs by the pattern of the ARIA authoring practices: one tab stop, arrows go from tab to tab.

/**
 * Makes a list of tabs work.
 *
 * @param list element with `role="tablist"`
 * @param opened called with the id of a tab that was opened, and whether it was open before
 */
export function makeTabs(list: HTMLElement, opened: (id: string, again: boolean) => void): void {
  const tabs = [...list.querySelectorAll<HTMLElement>('[role="tab"]')];
  const open = (tab: HTMLElement) => {
    const again = tab.getAttribute('aria-selected') === 'true';
    for (const one of tabs) {
      const on = one === tab;
      one.setAttribute('aria-selected', String(on));
      one.tabIndex = on ? 0 : -1;
      document.getElementById(one.getAttribute('aria-controls')!)!.hidden = !on;
    }
    opened(tab.id, again);
  };
  for (const [i, tab] of tabs.entries()) {
    tab.addEventListener('click', () => open(tab));
    tab.addEventListener('keydown', ({ key }) => {
      const to = { ArrowRight: i + 1, ArrowLeft: i - 1, Home: 0, End: tabs.length - 1 }[key];
      if (to === undefined) return;
      const next = tabs.at(to % tabs.length)!;
      next.focus();
      open(next);
    });
  }
}
