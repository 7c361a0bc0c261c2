import { cleanup, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { afterEach, expect, it } from 'vitest';
import type { Line } from '@/api/types';
import { show } from '@/test-api';
import { effectWords, MailboxEditor } from './MailboxEditor';
import { newLine } from './sheet';

afterEach(cleanup);

let latest: Line;

function Editor() {
  const [line, setLine] = useState<Line>(() =>
    newLine({
      addresses: [],
      takesIn: { all: [], any: [], none: [] },
      categories: [],
      facts: [],
      lines: [],
      everyLine: false,
      sorterId: null,
      limits: { oneReplyPerSenderHours: 24, skipLaterWorkflows: true },
    }),
  );
  latest = line;
  return <MailboxEditor line={line} setup={undefined} readOnly={false} onChange={setLine} />;
}

it('effects are chosen, changed and taken back', async () => {
  show(<Editor />);
  await userEvent.selectOptions(screen.getByLabelText('Read mark'), 'MarkRead');
  await userEvent.type(screen.getByLabelText('Set the keyword'), 'harbour');
  await userEvent.selectOptions(screen.getByLabelText('Place'), 'Move');
  await userEvent.clear(screen.getByLabelText('Folder'));
  await userEvent.type(screen.getByLabelText('Folder'), 'Done/Berths');
  expect(latest.inMailbox!.effects.map(effectWords)).toEqual(['read', 'keyword harbour', 'to Done/Berths']);
  await userEvent.selectOptions(screen.getByLabelText('Place'), 'Archive');
  await userEvent.selectOptions(screen.getByLabelText('Read mark'), '');
  await userEvent.clear(screen.getByLabelText('Set the keyword'));
  expect(latest.inMailbox!.effects).toEqual([{ kind: 'Archive', name: null }]);
  await userEvent.selectOptions(screen.getByLabelText('Place'), '');
  expect(latest.inMailbox).toBeNull();
});

it('a read mark and a flag exclude their opposites', async () => {
  show(<Editor />);
  await userEvent.selectOptions(screen.getByLabelText('Flag'), 'SetFlag');
  await userEvent.selectOptions(screen.getByLabelText('Flag'), 'ClearFlag');
  expect(latest.inMailbox!.effects).toEqual([{ kind: 'ClearFlag', name: null }]);
});
