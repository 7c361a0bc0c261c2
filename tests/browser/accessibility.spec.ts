import AxeBuilder from '@axe-core/playwright';
import { expect, signIn, test } from './office';

const places = [
  '/',
  '/queues',
  '/tickets',
  '/replies',
  '/replies?show=Sent',
  '/files',
  '/mail',
  '/workflows',
  '/setup',
  '/setup?part=templates&id=0',
  '/setup?part=mailboxes&id=0',
  '/setup?part=outside-sorter',
  '/log',
  '/log?tab=deeds',
  '/catch-up',
];

/** Every place, in both themes, against WCAG 2.2 A and AA. */
for (const theme of ['light', 'dark'] as const) {
  test(`every place can be used by everybody, ${theme}`, async ({ desk: page }) => {
    await page.evaluate((t) => localStorage.setItem('posttide-theme', t), theme);
    await page.goto('/workflows');
    const sheet = await page.getByRole('link', { name: 'Berth requests' }).getAttribute('href');
    const sorter = await page.getByRole('link', { name: 'Harbour desk' }).getAttribute('href');
    const ticket = (await (await page.request.get('/api/tickets')).json()).tickets[0];
    const found: string[] = [];
    for (const place of [...places, sheet!, sorter!, ...(ticket ? [`/tickets/${ticket.reference}`] : [])]) {
      await page.goto(place);
      await expect(page.getByText(/^Loading…$/)).toHaveCount(0);
      await expect(page.getByRole('main')).toBeVisible();
      const { violations } = await new AxeBuilder({ page })
        .withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'])
        .analyze();
      found.push(
        ...violations.map(
          (v) =>
            `${place} ${v.id}: ${v.nodes
              .map((n) => n.target.join(' '))
              .slice(0, 4)
              .join(' | ')}`,
        ),
      );
    }
    expect(found).toEqual([]);
  });
}

test('signing in can be used by everybody', async ({ page }) => {
  await page.goto('/');
  await expect(page.getByLabel('Password')).toBeVisible();
  expect((await new AxeBuilder({ page }).analyze()).violations.map((v) => v.id)).toEqual([]);
  await signIn(page);
});
