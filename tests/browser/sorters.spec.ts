import { chooseQueue, expect, practice, send, test } from './office';

test('what the sorter is unsure about is sorted by hand with one key, and the workflow goes on', async ({
  desk: page,
}) => {
  // The number the demo begins with is unsure about mail that asks for nothing; a later one may call it none of these.
  const subject = `Xqzt ${Date.now()}`;
  await send('harbour@saltmarrow.example', 'nobody@quux.example', [
    `Subject: ${subject}`,
    'From: nobody@quux.example',
    'To: harbour@saltmarrow.example',
    `Message-ID: <${Date.now()}@quux.example>`,
    '',
    'Nothing in particular.',
  ]);
  await page.getByRole('link', { name: 'Queues' }).click();
  await chooseQueue(page, 'Sort by hand');
  await page.getByText(subject).first().click();
  const sorting = page.getByRole('region', { name: 'Sorting' });
  await expect(sorting.getByText('Unsure. Which is it?')).toBeVisible();
  await page.keyboard.press('7');
  await expect(page.getByText('Sorted as Lost property. Harbour desk learns from it.').first()).toBeVisible();
  await chooseQueue(page, 'Front office');
  await page.getByText(subject).first().click();
  await expect(page.getByText(/sorted as “Lost property” by Nell Harbury/)).toBeVisible();
});

test('a sorter is labelled by keys, trained while one looks, rehearsed, and put into use by a person', async ({
  desk: page,
}) => {
  await page.getByRole('link', { name: 'Workflows', exact: true }).click();
  await page.getByRole('region', { name: 'Sorters' }).getByRole('link', { name: 'Harbour desk' }).click();
  await expect(page.getByText(/^Number 2 in hand · \d+ examples$/)).toBeVisible();
  const label = page.getByRole('region', { name: 'Label next' });
  const message = label.getByRole('article', { name: 'Message to label' });
  await expect(message).toBeVisible();

  // Three labels, one taken back; each goes on to the next message.
  for (const key of ['0', '0', '1']) {
    const before = await message.textContent();
    await page.keyboard.press(key);
    await expect(message).not.toHaveText(before!);
  }
  await page.keyboard.press('u');
  // One of them was given at the desk, by the test before.
  await expect(label.getByText('3 labels today.', { exact: false })).toBeVisible();
  const good = page.getByRole('region', { name: 'How good it is' });
  await expect(good.getByText('Decides itself')).toBeVisible();

  // A number of the confusion table opens the messages behind it.
  const cell = good.getByRole('button', { name: /Fuel order taken for Fuel order$/ });
  const count = parseInt((await cell.textContent())!, 10);
  await cell.click();
  const panel = page.getByRole('dialog');
  await expect(panel.getByText(`${count} in all, the newest label first.`)).toBeVisible();
  await panel.getByRole('listitem').first().getByRole('button').first().click();
  await expect(panel.getByText('together')).toBeVisible();
  await expect(panel.getByText('Nearest examples')).toBeVisible();
  await page.keyboard.press('Escape');

  // The number in hand is rehearsed like any other change, then put into use.
  await page.getByRole('button', { name: 'Rehearse number 2' }).click();
  await page.getByRole('link', { name: 'Everything else' }).click();
  await expect(page.getByText(/asks the sorter as its number in hand is/)).toBeVisible();
  await expect(page.getByRole('tab', { name: /^Changes \d/ })).toBeVisible();
  await page.getByRole('link', { name: 'Open the sorter' }).click();
  await page.getByRole('button', { name: 'Use number 2' }).click();
  await expect(page.getByText(/^In use since .* · number 2$/)).toBeVisible();
  await page.getByRole('button', { name: 'Numbers' }).click();
  await expect(page.getByRole('dialog').getByText('was in use')).toBeVisible();
});

test('an outside sorter is off, set up by a keeper, and compared on the same mail', async ({
  desk: page,
}) => {
  await page.goto('/setup?part=outside-sorter');
  await page.getByLabel('the outside sorter may be asked').check();
  await page.getByLabel('Address').fill(`${practice}/sorter/v1`);
  await page.getByLabel('Model').fill('practice');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText('The outside sorter was saved.').first()).toBeVisible();
  await page.getByRole('link', { name: 'Workflows', exact: true }).click();
  await page.getByRole('link', { name: 'Harbour desk' }).click();
  await page.getByRole('button', { name: 'Outside sorter' }).click();
  const panel = page.getByRole('dialog', { name: 'Outside sorter' });
  await expect(panel.getByText(/^You sort a message into one of these categories/)).toBeVisible();
  await panel.getByRole('button', { name: 'Send 20 examples' }).click();
  await expect(panel.getByText(/^Right: this sorter \d+ of 20/)).toBeVisible();
  await page.goto('/setup?part=outside-sorter');
  await page.getByLabel('the outside sorter may be asked').uncheck();
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText('The outside sorter was saved.').first()).toBeVisible();
});
