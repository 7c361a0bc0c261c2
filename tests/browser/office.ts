import { createConnection } from 'node:net';
import { expect, test as base, type Page } from '@playwright/test';

export const smtpPort = Number(process.env.POSTTIDE_SMTP_PORT);
export const imapPort = Number(process.env.POSTTIDE_IMAP_PORT);
export const practice = process.env.POSTTIDE_PRACTICE!;

/** Signs in by the form, as a person would. */
export async function signIn(page: Page, email = 'nell@saltmarrow.example') {
  await page.goto('/');
  await page.getByLabel('E-mail address').fill(email);
  await page.getByLabel('Password').fill('saltmarrow-demo');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('navigation', { name: 'Places' })).toBeVisible();
}

/** Opens a queue by its name; the list shows what waits in it beside the name. */
export async function chooseQueue(page: Page, name: string) {
  const queue = page.getByRole('combobox', { name: 'Queue' });
  await queue.selectOption(await queue.locator('option', { hasText: name }).getAttribute('value'));
}

/** Sends a message over SMTP with nothing but the protocol (RFC 5321), so that the test shares no code with what it tests. */
export async function send(to: string, from: string, lines: string[]): Promise<void> {
  const socket = createConnection({ host: '127.0.0.1', port: smtpPort });
  let buffer = '';
  const replies: string[] = [];
  let wake: (() => void) | undefined;
  socket.on('data', (data) => {
    buffer += data.toString();
    for (let end = buffer.indexOf('\r\n'); end >= 0; end = buffer.indexOf('\r\n')) {
      const line = buffer.slice(0, end);
      buffer = buffer.slice(end + 2);
      if (line[3] === ' ') replies.push(line);
    }
    wake?.();
  });
  const answer = async (code: string) => {
    while (replies.length === 0) await new Promise<void>((done) => (wake = done));
    const line = replies.shift()!;
    expect(line.slice(0, 3)).toBe(code);
  };
  await answer('220');
  for (const [command, code] of [
    ['EHLO test.example', '250'],
    [`MAIL FROM:<${from}>`, '250'],
    [`RCPT TO:<${to}>`, '250'],
    ['DATA', '354'],
    [`${lines.map((l) => (l.startsWith('.') ? `.${l}` : l)).join('\r\n')}\r\n.`, '250'],
    ['QUIT', '221'],
  ] as const) {
    socket.write(`${command}\r\n`);
    await answer(code);
  }
  socket.end();
}

/** What the practice mail host received under a subject. */
export async function received(subject: string): Promise<string | undefined> {
  const mail = (await (await fetch(`${practice}/mail`)).json()) as {
    source: string;
  }[];
  return mail.find((m) => m.source.includes(`Subject: ${subject}`))?.source;
}

/** A page already signed in. Anything the browser complains about fails the test. */
export const test = base.extend<{ desk: Page }>({
  desk: async ({ page }, use) => {
    const complaints: string[] = [];
    page.on('pageerror', (e) => complaints.push(e.message));
    page.on('console', (m) => {
      if (m.type() === 'error' && !m.text().includes('Failed to load resource')) complaints.push(m.text());
    });
    await signIn(page);
    await use(page);
    expect(complaints).toEqual([]);
  },
});

export { expect };
