import { readFile } from 'node:fs/promises';
import { expect, test } from './office';

test('conditions are nested, lines dragged, a marked message kept, and an edition that breaks it asks first', async ({
  desk: page,
}) => {
  await page.getByRole('link', { name: 'Workflows', exact: true }).click();
  await page.getByRole('link', { name: 'Cargo papers' }).click();
  const rehearsal = page.getByRole('region', { name: 'Rehearsal' });
  await rehearsal.getByRole('tab', { name: /^Taken in [1-9]/ }).click();

  // A message is marked as meant and kept from then on.
  await rehearsal.getByRole('listitem').first().getByRole('button').first().click();
  await rehearsal.getByRole('button', { name: 'as meant' }).click();
  await expect(rehearsal.getByRole('tab', { name: 'Kept 1' })).toBeVisible();

  // Lines change their order by dragging the handle.
  const first = page.getByRole('button', { name: 'Line 1, when' });
  const before = (await first.textContent())!;
  const handle = (await page.getByRole('button', { name: /^Move line 1/ }).boundingBox())!;
  const below = (await page.getByRole('button', { name: /^Move line 2/ }).boundingBox())!;
  await page.mouse.move(handle.x + 4, handle.y + 6);
  await page.mouse.down();
  await page.mouse.move(handle.x + 6, handle.y + 30, { steps: 4 });
  await page.mouse.move(below.x + 6, below.y + 20, { steps: 6 });
  await page.mouse.up();
  await expect(first).not.toHaveText(before);
  await page.getByRole('button', { name: 'Undo', exact: true }).first().click();
  await expect(first).toHaveText(before);

  // A nested group with a condition that nothing meets: everything is left alone, and the kept example fails.
  await page.getByRole('button', { name: '+ all of' }).first().click();
  await page.getByLabel('What to look at').first().selectOption({ label: 'group of conditions' });
  await page.getByLabel('What to look at').nth(1).selectOption({ label: 'the word at a place' });
  await page.getByLabel('Values, separated by commas').first().fill('zzzz');
  await expect(rehearsal.getByRole('tab', { name: 'Taken in 0' })).toBeVisible();
  await expect(rehearsal.getByRole('tab', { name: 'Kept, failing 1' })).toBeVisible();
  await page.getByRole('button', { name: /^Put edition \d+ live/ }).click();
  const asks = page.getByRole('dialog', { name: 'A kept example fails' });
  await expect(asks.getByText('left alone')).toBeVisible();
  await asks.getByRole('button', { name: 'Go on changing it' }).click();

  // A near miss marks its condition on the sheet and says by how little.
  await rehearsal.getByRole('tab', { name: /^Near misses [1-9]/ }).click();
  await rehearsal.getByRole('listitem').first().getByRole('button').first().click();
  await expect(
    rehearsal.getByText(/not so: the first word of the first line contains “zzzz”/).first(),
  ).toBeVisible();
  await page.getByRole('button', { name: /^Drop edition/ }).click();
  await expect(rehearsal.getByRole('tab', { name: 'Kept 1' })).toBeVisible();
});

test('what should have been taken is, by the smallest change; a kind is found; a workflow goes out and comes in', async ({
  desk: page,
}) => {
  await page.getByRole('link', { name: 'Workflows', exact: true }).click();
  await expect(page.getByRole('region', { name: 'Overlaps' }).getByRole('table')).toBeVisible();
  await page.getByRole('link', { name: 'Berth requests' }).click();
  const rehearsal = page.getByRole('region', { name: 'Rehearsal' });
  const taken = rehearsal.getByRole('tab', { name: /^Taken in [1-9]/ });
  const before = await taken.textContent();
  await rehearsal.getByRole('tab', { name: /^Near misses [1-9]/ }).click();
  await rehearsal.getByRole('listitem').first().getByRole('button').first().click();
  await rehearsal.getByRole('button', { name: 'should have been taken' }).click();
  await rehearsal.getByRole('button', { name: 'Change it' }).first().click();
  await expect(taken).not.toHaveText(before!);

  const out = page.waitForEvent('download');
  await page.getByRole('link', { name: 'As a file' }).click();
  const yaml = await readFile((await (await out).path())!, 'utf8');
  expect(yaml).toContain('name: Berth requests');

  await page.getByRole('button', { name: 'As Sieve' }).click();
  await expect(page.getByRole('dialog').getByText('Does not fit')).toBeVisible();
  await page.getByRole('button', { name: 'Close' }).click();
  await page.getByRole('button', { name: /^Drop edition/ }).click();

  await page.getByRole('link', { name: 'Workflows', exact: true }).click();
  await page.getByRole('button', { name: 'Bring in a file' }).click();
  await page.getByLabel('Or its text').fill(yaml.replace('name: Berth requests', 'name: Berths once more'));
  await expect(page.getByText(/would be begun at the end of the order/)).toBeVisible();
  await page.getByRole('button', { name: 'Bring it in' }).click();
  await expect(page.getByRole('heading', { name: 'Berths once more' })).toBeVisible();

  await page.getByRole('link', { name: 'Mail', exact: true }).click();
  await page.getByRole('region', { name: 'Messages found' }).getByRole('checkbox').first().check();
  await page.getByRole('button', { name: 'Find their kind', exact: true }).click();
  const kind = page.getByRole('dialog', { name: 'Find their kind' });
  await expect(kind.getByText(/^precision \d+ %$/).first()).toBeVisible();
});
