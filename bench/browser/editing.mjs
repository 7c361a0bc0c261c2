// Measures, in a real browser, how long it takes from a keystroke in a condition to the rehearsal of that edit on the screen.
// node editing.mjs ADDRESS BROWSER EDITS
import { createRequire } from 'node:module';

const { chromium } = createRequire(new URL('../../web/package.json', import.meta.url))('@playwright/test');
const [, , address, executablePath, edits = '40'] = process.argv;
const browser = await chromium.launch({
  executablePath,
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
    '--host-resolver-rules=MAP * ~NOTFOUND, EXCLUDE 127.0.0.1',
  ],
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
await page.goto(address);
await page.getByLabel('E-mail address').fill('nell@saltmarrow.example');
await page.getByLabel('Password').fill('saltmarrow-demo');
await page.getByRole('button', { name: 'Sign in' }).click();
await page.getByRole('link', { name: 'Workflows' }).click();
await page.getByRole('link', { name: 'Berth requests' }).click();
await page.getByLabel('Which past mail').selectOption('all');
await page.waitForTimeout(3000);
await page.getByRole('button', { name: '+ any of' }).first().click();
const field = page.getByLabel('Values, separated by commas').last();
await field.fill('place');
await page.waitForTimeout(3000);

// The panel shows how many messages the rehearsal took in; each edit changes what the condition finds.
const words = ['berth', 'pontoon', 'fuel', 'noise', 'crane', 'invoice', 'tern', 'night', 'visitor', 'cargo'];
const times = [];
for (let i = 0; i < Number(edits); i++) {
  const time = await page.evaluate(
    async ({ word }) => {
      const input = [...document.querySelectorAll('input[aria-label="Values, separated by commas"]')].at(-1);
      const status = document.querySelector('section[aria-label=Rehearsal] [role=status]');
      const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set;
      const begun = performance.now();
      set.call(input, word);
      input.dispatchEvent(new Event('input', { bubbles: true }));
      const seen = (text) =>
        new Promise((done) => {
          const look = () => (text.test(status.textContent) ? done() : requestAnimationFrame(look));
          look();
        });
      await seen(/rehearsing/);
      await seen(/ in /);
      return performance.now() - begun;
    },
    { word: words[i % words.length] + (i >= words.length ? String(i) : '') },
  );
  times.push(time);
  await page.waitForTimeout(400);
}
const shown = await page.locator('section[aria-label=Rehearsal] [role=status]').textContent();
times.sort((a, b) => a - b);
const at = (share) => times[Math.min(times.length - 1, Math.floor(times.length * share))].toFixed(0);
console.log(`${edits} edits, each rehearsed on ${shown.split(' in ')[0]} messages: p50 ${at(0.5)} ms, p95 ${at(0.95)} ms, most ${at(1)} ms from keystroke to screen`);
await browser.close();
