import { expect, imapPort, practice, test } from './office';

/** A mailbox on the practice mail server, with some mail in it. */
async function newBox(subjects: string[]): Promise<string> {
  const user = `box-${Date.now()}@browser.example`;
  await fetch(`${practice}/mailboxes/${user}`, { method: 'PUT' });
  for (const subject of subjects) await deliver(user, subject);
  return user;
}

async function deliver(user: string, subject: string) {
  const mail = [
    'From: Maud Ashgrove <maud@tern.example>',
    `To: ${user}`,
    `Subject: ${subject}`,
    `Message-ID: <${subject.replaceAll(' ', '-')}-${Date.now()}@tern.example>`,
    '',
    'A berth for two nights, please.',
    '',
  ];
  await fetch(`${practice}/mailboxes/${user}/messages`, { method: 'POST', body: mail.join('\r\n') });
}

test('a mailbox is connected: the test says what is wrong, then mail comes by itself', async ({
  desk: page,
}) => {
  const user = await newBox(['Was there before']);
  await page.goto('/setup');
  await page.getByRole('button', { name: 'Add a mailbox' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Browser box');
  await page.getByLabel('Address 1', { exact: true }).fill(user);
  await page.getByLabel('Read it from a mail server').check();
  await page.getByLabel('Server', { exact: true }).fill('127.0.0.1');
  await page.getByLabel('Private connection').selectOption('None');
  await page.getByLabel('Port', { exact: true }).fill(String(imapPort));
  await page.getByLabel('User', { exact: true }).fill(user);
  await page.getByLabel('Password', { exact: true }).fill('wrong');
  await page.getByRole('button', { name: 'Test the connection' }).click();
  await expect(page.getByRole('row', { name: /Sign-in failed The server refused/ })).toBeVisible();
  await page.getByLabel('Password', { exact: true }).fill('practice');
  await page.getByRole('button', { name: 'Test the connection' }).click();
  await expect(page.getByText(/tells of new mail by itself \(IDLE\)/)).toBeVisible();
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText('The mailbox is saved.', { exact: true })).toBeVisible();

  await page.goto('/mail');
  await expect(page.getByRole('button', { name: /Was there before.*old mail/ })).toBeVisible();
  await deliver(user, 'Came by itself');
  await expect(page.getByRole('button', { name: /Came by itself.*(taken in|left alone)/ })).toBeVisible();

  await page.goto('/');
  await expect(page.getByRole('link', { name: 'Browser box' }).first()).toBeVisible();
  await page.goto('/log');
  await page.getByRole('button', { name: 'Look at Browser box' }).first().click();
  await expect(page.getByRole('link', { name: 'The 1 message it took' }).first()).toBeVisible();
});

test('old mail is caught up with: looked over, confirmed, and the accounts balance', async ({
  desk: page,
}) => {
  const mark = `Catch ${Date.now()}`;
  const eml = (n: number) =>
    Buffer.from(
      `From: Maud <maud${n}@tern.example>\r\nTo: berths@saltmarrow.example\r\nSubject: ${mark} berth ${n}\r\n\r\nA berth.\r\n`,
    );
  await page.goto('/mail');
  await page.getByRole('button', { name: 'Bring in files' }).click();
  await page
    .getByLabel('Files', { exact: true })
    .setInputFiles(
      [1, 2, 3].map((n) => ({ name: `${mark} ${n}.eml`, mimeType: 'message/rfc822', buffer: eml(n) })),
    );
  await expect(page.getByRole('region', { name: `${mark} 3.eml` })).toContainText('1 taken');
  await page.keyboard.press('Escape');
  await page.getByLabel('Find mail', { exact: true }).fill(mark);
  await expect(page).toHaveURL(/text=Catch/);
  await expect(page.getByRole('button', { name: new RegExp(`${mark} berth 3.*old mail`) })).toBeVisible();

  // What would happen to one of them?
  await page.getByRole('button', { name: new RegExp(`${mark} berth 2`) }).click();
  await expect(page.getByRole('heading', { name: `${mark} berth 2` })).toBeVisible();
  await page.keyboard.press('w');
  const panel = page.getByRole('dialog', { name: 'What would happen?' });
  await panel.getByRole('combobox').selectOption({ label: 'Berth requests' });
  await expect(panel.getByText(/^place in /)).toBeVisible();
  await page.keyboard.press('Escape');

  await page.getByRole('link', { name: 'Carry out a workflow' }).click();
  await page.getByLabel('Workflow', { exact: true }).selectOption({ label: 'Berth requests' });
  await page.getByRole('button', { name: 'Look it over' }).click();
  await expect(page.getByRole('button', { name: 'Carry out on 3' })).toBeVisible();
  await expect(page.getByText('maud1@tern.example', { exact: true })).toBeVisible();
  await page.getByLabel(`Carry out on ${mark} berth 1`).click();
  await page.getByRole('button', { name: 'Carry out on 2' }).click();
  await expect(page.getByRole('button', { name: '2 taken in' })).toBeVisible();
  await expect(page.getByRole('button', { name: '2 chosen' })).toBeVisible();
  await page.getByRole('link', { name: / planned$/ }).click();
  await expect(page.getByRole('button', { name: /^place in /i })).toHaveCount(2);
});

test('a search is exported', async ({ desk: page }) => {
  await page.goto('/mail?text=berth');
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Export as mbox' }).click();
  expect((await download).suggestedFilename()).toBe('mail.mbox');
});
