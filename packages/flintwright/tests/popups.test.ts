import { describe, expect, test } from '@jest/globals';
import { openMap, settled, useStage } from './harness.ts';

const stage = useStage();

const view = { center: [0, 0], zoom: 5 };

describe('popups', () => {
  test.each([
    ['no-preference', 'flint-appear'],
    ['reduce', 'none'],
  ] as const)('rise quietly, unless less motion is asked for: %s', async (reducedMotion, name) => {
    const { page } = stage;
    await page.emulateMedia({ reducedMotion });
    await openMap(stage, { sheet: 1, layers: [] }, view);
    await page.evaluate(() => void window.map.popup({ at: [0, 0], title: 'A place' }));
    await page.waitForSelector('.flint-popup > .flint-card');
    const seen = await page.evaluate(() => {
      const { animationName, animationDuration, filter } = getComputedStyle(
        document.querySelector('.flint-popup > .flint-card')!,
      );
      return [
        animationName,
        animationDuration,
        filter,
        getComputedStyle(document.querySelector('.flint-popup')!).filter,
      ];
    });
    await page.emulateMedia({ reducedMotion: 'no-preference' });
    // The shadow lies outside what is clipped: on what holds the card.
    expect(seen).toEqual([name, name === 'none' ? '0s' : '0.14s', 'none', expect.stringContaining('drop-shadow')]);
  });

  test('sixty hostile texts run nothing, load nothing, and leave nothing that could', async () => {
    const { page } = stage;
    await openMap(stage, { sheet: 1, layers: [] }, view);
    // The browser tells of what the page's policy would have kept from running, even where it is only parsed.
    stage.expected = /Content Security Policy/;
    const call = 'window.caught=1';
    const tags = [
      'img',
      'svg',
      'video',
      'audio',
      'body',
      'iframe',
      'object',
      'embed',
      'input',
      'details',
      'marquee',
      'math',
    ];
    const handlers = ['onerror', 'onload', 'onclick', 'onmouseover', 'onfocus', 'ontoggle'];
    const hostile = [
      ...tags.map((tag, i) => `<${tag} src=x ${handlers[i % handlers.length]}="${call}">`),
      ...handlers.map((name) => `<img src=x ${name.toUpperCase()}=${call}>`),
      `<script>${call}</script>`,
      `<SCRIPT>${call}</SCRIPT>`,
      `<scr<script>ipt>${call}</scr</script>ipt>`,
      `<svg><script>${call}</script></svg>`,
      `<svg/onload=${call}>`,
      `<svg><animate onbegin=${call} attributeName=x dur=1s>`,
      `<svg><a xlink:href="javascript:${call}"><text>x</text></a></svg>`,
      `<math><mtext><table><mglyph><style><img src=x onerror=${call}>`,
      `<a href="javascript:${call}">x</a>`,
      `<a href=" java&#10;script:${call}">x</a>`,
      `<a href="data:text/html,<script>${call}</script>">x</a>`,
      `<a href="vbscript:${call}">x</a>`,
      `<form action="javascript:${call}"><button>x</button></form>`,
      `<button formaction="javascript:${call}">x</button>`,
      `<iframe srcdoc="<script>parent.caught=1</script>"></iframe>`,
      `<iframe src="javascript:parent.caught=1"></iframe>`,
      `<object data="javascript:${call}"></object>`,
      `<embed src="javascript:${call}">`,
      `<link rel=stylesheet href="javascript:${call}">`,
      `<meta http-equiv=refresh content="0;url=javascript:${call}">`,
      `<base href="https://example.invalid/">`,
      `<style>@import 'https://example.invalid/x.css'</style>`,
      `<div style="background:url(javascript:${call})">x</div>`,
      `<div style="width:expression(${call})">x</div>`,
      `<input autofocus onfocus=${call}>`,
      `<details open ontoggle=${call}>x</details>`,
      `<video><source onerror=${call}></video>`,
      `<img src="x" srcset="x 1x" onerror=${call}>`,
      `<table background="javascript:${call}"><td>x</table>`,
      `<template><script>${call}</script></template>`,
      `<noscript><p title="</noscript><img src=x onerror=${call}>">`,
      `<textarea><img src=x onerror=${call}></textarea>`,
      `<title><img src=x onerror=${call}></title>`,
      `<xmp><img src=x onerror=${call}></xmp>`,
      `<!--><img src=x onerror=${call}>-->`,
      `<![CDATA[<img src=x onerror=${call}>]]>`,
      `<p id=map name=map>x</p>`,
      `<a id=map href=x>x</a><form name=documentElement><input name=attributes></form>`,
      `<slot onslotchange=${call}>x</slot>`,
      `<dialog open onclose=${call}>x</dialog>`,
      `<select onchange=${call}><option>x</select>`,
      `<a href="https://example.com/" onclick=${call} target=_self>x</a>`,
    ];
    expect(hostile.length).toBeGreaterThanOrEqual(60);
    const left = await page.evaluate(async (texts) => {
      const bad: string[] = [];
      for (const html of texts) {
        const popup = window.map.popup({ at: [0, 0], title: html, text: html, lines: { [html]: html }, html });
        await popup.ready;
        const own = document.querySelector('.flint-popup')!;
        for (const element of own.querySelectorAll('*')) {
          for (const { name, value } of element.attributes)
            if (/^on|^style$|^srcset$/i.test(name) || /^\s*(javascript|vbscript|data:text)/i.test(value))
              bad.push(`${element.localName} ${name}=${value}`);
          if (/^(script|style|iframe|object|embed|form|base|meta|link|input)$/.test(element.localName))
            bad.push(element.localName);
          if (element instanceof HTMLElement) element.click();
        }
        popup.remove();
      }
      await new Promise((resolve) => setTimeout(resolve, 200));
      return {
        bad,
        caught: (window as unknown as { caught?: number }).caught ?? 0,
        open: document.querySelectorAll('.flint-popup').length,
      };
    }, hostile);
    expect(left).toEqual({ bad: [], caught: 0, open: 0 });
    const link = await page.evaluate(async () => {
      const html = 'see <a href="https://example.com/">there</a> and <b>here</b>';
      await window.map.popup({ at: [0, 0], html }).ready;
      const anchor = document.querySelector('.flint-html a')!;
      return [
        anchor.getAttribute('target'),
        anchor.getAttribute('rel'),
        document.querySelector('.flint-html')!.textContent,
      ];
    });
    expect(link).toEqual(['_blank', 'noopener noreferrer nofollow', 'see there and here']);
  });

  test('focus goes in and comes back; Escape closes; several may be open; one may stay', async () => {
    const { page } = stage;
    await openMap(stage, { sheet: 1, layers: [] }, view);
    await page.locator('canvas').focus();
    await page.evaluate(async () => {
      window.map.popup({ at: [0, 0], title: 'first' });
      await window.map.popup({ at: [5, 0], title: 'second', stays: true }).ready;
    });
    expect(await page.evaluate(() => document.activeElement?.getAttribute('aria-label'))).toBe('second');
    await page.keyboard.press('Escape');
    expect(await page.locator('.flint-popup').count()).toBe(1);
    await page.evaluate(() => void window.map.popup({ at: [5, 0], title: 'third', stays: true }));
    await page.mouse.click(700, 550);
    expect(await page.getByRole('dialog').allTextContents()).toEqual([expect.stringContaining('third')]);
  });
});

test('a popup whose place has left the view keeps the focus, and Escape closes it', async () => {
  await openMap(stage, { sheet: 1, layers: [] }, { center: [0, 0], zoom: 5 });
  await stage.page.evaluate(() => window.map.popup({ at: [0, 0], title: 'Quay' }));
  await settled(stage);
  await stage.page.evaluate(() => window.map.move({ center: [90, 0] }));
  await settled(stage);
  const inside = () => stage.page.evaluate(() => document.activeElement?.closest('.flint-popup') !== null);
  expect(await inside()).toBe(true);
  await stage.page.keyboard.press('Escape');
  expect(await stage.page.locator('.flint-popup').count()).toBe(0);
  expect(await stage.page.evaluate(() => document.activeElement?.className ?? '')).toContain('flint-canvas');
});
