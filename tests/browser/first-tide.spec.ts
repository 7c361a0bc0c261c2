import { readFile } from 'node:fs/promises';
import { chooseQueue, expect, received, send, test } from './office';

test('a mail is sent, appears in its queue by itself, is explained, ticketed, filed and answered', async ({
  desk: page,
}) => {
  await page.getByRole('link', { name: /^Queues/ }).click();
  await chooseQueue(page, 'Large berths');

  await send('berths@saltmarrow.example', 'agent@quill-lines.example', [
    'From: Quill Lines <agent@quill-lines.example>',
    'To: berths@saltmarrow.example',
    'Subject: Berth for MV Browser',
    'Message-ID: <browser-1@quill-lines.example>',
    'MIME-Version: 1.0',
    'Content-Type: multipart/mixed; boundary=edge',
    '',
    '--edge',
    'Content-Type: text/plain; charset=utf-8',
    '',
    'We act as agents for MV Browser, LOA 61 m, and ask for a large berth.',
    '',
    '--edge',
    'Content-Type: application/pdf',
    'Content-Disposition: attachment; filename="particulars.pdf"',
    'Content-Transfer-Encoding: base64',
    '',
    'JVBERi0xLjQ=',
    '--edge--',
  ]);

  // Nothing is reloaded: the item comes to the open page.
  const item = page
    .getByRole('region', { name: 'Items' })
    .getByRole('button', { name: /Berth for MV Browser/ });
  await item.click();
  await expect(page.getByRole('heading', { name: 'Berth for MV Browser' })).toBeVisible();

  // The reasons point at words, and the words are marked in the text.
  const panel = page.getByRole('complementary', { name: 'Desk' });
  await panel.getByText('sorted as “Large vessel”').hover();
  await expect(
    page.getByRole('region', { name: 'Message' }).locator('mark', { hasText: 'LOA' }),
  ).toHaveAttribute('data-lit', 'true');

  // The ticket and its timeline.
  const ticket = panel.getByRole('link', { name: /^SH-\d+$/ });
  const reference = (await ticket.textContent())!;
  await ticket.click();
  await expect(page.getByRole('heading', { name: 'Berth for MV Browser' })).toBeVisible();
  await expect(page.getByText('Opened, Large berth')).toBeVisible();

  // The file, byte for byte.
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'particulars.pdf' }).click();
  expect(await readFile(await (await download).path(), 'utf8')).toBe('%PDF-1.4');

  // The reply is checked, changed and sent.
  await page.getByRole('link', { name: /^Replies/ }).click();
  await page.getByRole('button', { name: /Re: Berth for MV Browser/ }).click();
  await page.getByRole('button', { name: 'Change' }).click();
  const text = page.getByLabel('Text');
  await text.fill(`${await text.inputValue()}\nPS: berth 3.`);
  await page.getByRole('button', { name: 'Save the text' }).click();
  await expect(page.getByRole('region', { name: 'Reply', exact: true })).toContainText('PS: berth 3.');
  await page.getByRole('button', { name: /^Send/ }).click();

  await expect.poll(() => received('Re: Berth for MV Browser'), { timeout: 60_000 }).toBeTruthy();
  const sent = (await received('Re: Berth for MV Browser'))!;
  expect(sent).toContain('Auto-Submitted: auto-replied');
  expect(sent).toContain('In-Reply-To: <browser-1@quill-lines.example>');
  expect(sent).toContain('References: <browser-1@quill-lines.example>');
  expect(sent).toContain('To: agent@quill-lines.example');
  expect(sent).toContain(reference);
  expect(sent).toContain('PS: berth 3.');

  await page.getByRole('tab', { name: /^Sent/ }).click();
  await expect(page.getByRole('button', { name: /Re: Berth for MV Browser/ })).toBeVisible();
});

test('the desk is worked by keyboard, and done can be taken back', async ({ desk: page }) => {
  for (const name of ['first', 'second']) {
    await send('harbour@saltmarrow.example', `${name}@keys.example`, [
      `From: ${name}@keys.example`,
      'To: harbour@saltmarrow.example',
      `Subject: Keyboard ${name}`,
      '',
      'Nothing in particular.',
    ]);
  }
  await page.getByRole('link', { name: /^Queues/ }).click();
  await chooseQueue(page, 'Sort by hand');
  const items = page.getByRole('region', { name: 'Items' });
  await items.getByRole('button', { name: /Keyboard first/ }).click();
  await expect(page.getByRole('heading', { name: 'Keyboard first' })).toBeVisible();

  await page.keyboard.press('a');
  await expect(items.getByRole('button', { name: /Keyboard first/ })).toContainText('you');
  await page.keyboard.press('n');
  await page.getByLabel('For the people here; it is not sent').fill('Ask Sten.');
  await page.getByRole('button', { name: 'Add the note' }).click();
  await expect(page.getByRole('complementary', { name: 'Desk' })).toContainText('Ask Sten.');

  await page.keyboard.press('d');
  await expect(items.getByRole('button', { name: /Keyboard first/ })).toHaveCount(0);
  await expect(page.getByRole('heading', { name: 'Keyboard second' })).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(items.getByRole('button', { name: /Keyboard first/ })).toBeVisible();
});

test('a sheet is changed, rehearsed at once, undone, put live and compared', async ({ desk: page }) => {
  await page.getByRole('link', { name: 'Workflows', exact: true }).click();
  await page.getByRole('link', { name: 'Berth requests' }).click();
  const rehearsal = page.getByRole('region', { name: 'Rehearsal' });
  await expect(rehearsal.getByRole('tab', { name: /^Taken in \d/ })).toBeVisible();

  await page.getByRole('button', { name: 'Line 4, queue' }).click();
  await page.getByLabel('Place in the queue').selectOption({ label: 'Front office' });
  await expect(page.getByText('Edition 3 in hand · 1 change')).toBeVisible();
  await page.keyboard.press('Escape');
  const changes = rehearsal.getByRole('tab', { name: /^Changes [1-9]/ });
  await changes.click();
  await expect(rehearsal.locator('del', { hasText: 'place in Berthing desk' }).first()).toBeVisible();
  await expect(rehearsal.locator('strong', { hasText: 'place in Front office' }).first()).toBeVisible();

  // A count opens its messages, and a message its marked words.
  await page.getByRole('button', { name: 'Messages of line 4' }).click();
  await rehearsal.getByRole('listitem').first().getByRole('button').first().click();
  await expect(rehearsal.locator('mark').first()).toBeVisible();

  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(rehearsal.getByRole('tab', { name: 'Changes 0' })).toBeVisible();
  await page.getByRole('button', { name: 'Redo' }).click();
  await expect(page.getByText('Edition 3 in hand · 1 change')).toBeVisible();

  await page.getByRole('button', { name: 'Put edition 3 live' }).click();
  await expect(page.getByText(/Live since .* edition 3/)).toBeVisible();
  await page.getByRole('button', { name: 'Editions' }).click();
  const editions = page.getByRole('dialog');
  await expect(
    editions.getByText('line 4, Visitor berth; queue Front office', {
      exact: false,
    }),
  ).toBeVisible();
  await editions
    .getByRole('row', { name: /^2/ })
    .getByRole('button', { name: /Bring back/ })
    .click();
  await expect(page.getByText('Edition 4 in hand', { exact: false })).toBeVisible();
});

test('mail files are brought in with progress and a result', async ({ desk: page }) => {
  await page.getByRole('link', { name: 'Mail', exact: true }).click();
  await page.getByRole('button', { name: 'Bring in files' }).click();
  const eml = Buffer.from(
    'From: up@load.example\r\nTo: berths@saltmarrow.example\r\nSubject: Uploaded berth\r\n\r\nA berth.\r\n',
  );
  await page.getByLabel('Files', { exact: true }).setInputFiles([
    { name: 'one.eml', mimeType: 'message/rfc822', buffer: eml },
    { name: 'again.eml', mimeType: 'message/rfc822', buffer: eml },
    {
      name: 'photo.png',
      mimeType: 'image/png',
      buffer: Buffer.from('not mail'),
    },
  ]);
  await expect(page.getByRole('region', { name: 'one.eml' })).toContainText(
    '1 taken, 0 duplicates, 0 refused',
  );
  await expect(page.getByRole('region', { name: 'again.eml' })).toContainText(
    '0 taken, 1 duplicate, 0 refused',
  );
  await expect(page.getByRole('region', { name: 'photo.png' })).toContainText('not a mail message');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: /Uploaded berth/ })).toBeVisible();
});

test('a person without the permission sees the sheet but cannot change it', async ({ page }) => {
  const { signIn } = await import('./office');
  await signIn(page, 'desk@saltmarrow.example');
  await page.getByRole('link', { name: 'Workflows', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Begin a workflow' })).toHaveCount(0);
  await page.getByRole('link', { name: 'Fuel orders' }).click();
  await expect(page.getByLabel('What to look at').first()).toBeDisabled();
});

test('a wrong password is told plainly', async ({ page }) => {
  await page.goto('/');
  await page.getByLabel('E-mail address').fill('checker@saltmarrow.example');
  await page.getByLabel('Password').fill('wrong');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('alert')).toHaveText('The address or the password is wrong.');
});
