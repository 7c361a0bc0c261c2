import { useMemo, useState } from 'react';
import type { PreparedMessage } from '@/api/types';
import { recipients, shown, type Mark } from './evidence';
import { Marked, type Lit } from './Marked';
import { bytes, exact, when } from './time';

interface Props extends Lit {
  message: PreparedMessage;
  marks: Mark[];
  /** Whether an HTML part can be shown instead of the text. */
  hasHtml?: boolean;
  titleLevel?: 'h1' | 'h2';
}

/** One message as decisions see it: header, new part, what is quoted folded away, attachments. */
export function MessageSheet({ message, marks, hasHtml, lit, setLit, titleLevel: Title = 'h2' }: Props) {
  const [earlier, setEarlier] = useState(false);
  const [html, setHtml] = useState(false);
  const light = { marks, lit, setLit };
  const to = useMemo(() => recipients(message), [message]);
  const stretches = message.body.stretches;
  const hasNew = stretches.some(
    (s) => s.kind === 'New' && message.body.text.slice(s.start, s.start + s.length).trim() !== '',
  );
  const folded = stretches.filter((s) => hasNew && s.kind !== 'New');
  return (
    <article>
      <Title className="title !text-[22px]">
        <Marked text={message.subject} place="Subject" {...light} />
        {message.subject === '' && <span className="text-soft">(no subject)</span>}
      </Title>
      <p className="mt-1 mb-3 break-words text-soft">
        <Marked text={shown(message.from)} place="Sender" {...light} /> · to{' '}
        {to.map((a, i) => (
          <span key={a.address}>
            {i > 0 && ', '}
            <Marked text={shown(a)} place="Recipient" index={i} {...light} />
          </span>
        ))}{' '}
        · <time title={exact(message.arrivedAt)}>{when(message.arrivedAt)}</time>
      </p>
      {message.automatic.length > 0 && (
        <p className="mb-3 border-l-4 border-amber bg-amber-wash px-3 py-1.5">
          Automatic mail:{' '}
          {message.automatic.map((m, i) => (
            <span key={m.sign}>
              {i > 0 && ', '}
              <Marked text={m.sign} place="Sign" index={i} {...light} />
            </span>
          ))}
        </p>
      )}
      {html ? (
        <iframe
          title="The message as HTML"
          sandbox="allow-popups allow-popups-to-escape-sandbox"
          src={`/api/messages/${message.id}/html`}
          className="h-[420px] w-full border border-line bg-sheet"
        />
      ) : (
        <div className="max-w-[78ch] text-[14.5px] leading-[1.55] break-words whitespace-pre-wrap">
          {stretches.map((s) =>
            folded.includes(s) && !earlier ? null : (
              <span key={s.start} className={s.kind === 'New' || !hasNew ? undefined : 'text-soft'}>
                <Marked
                  text={message.body.text}
                  start={s.start}
                  end={s.start + s.length}
                  place="Body"
                  {...light}
                />
              </span>
            ),
          )}
          {message.body.text.trim() === '' && <span className="text-soft">(no text)</span>}
        </div>
      )}
      <div className="mt-3 flex flex-wrap items-center gap-x-4 gap-y-2">
        {message.attachments.map((a) => (
          <a
            key={a.index}
            href={`/api/messages/${message.id}/attachments/${a.index}`}
            className="boxed inline-flex gap-2 break-all no-underline"
          >
            <Marked text={a.name} place="Attachment" index={a.index} {...light} />
            {a.name === '' && '(no name)'} <span className="text-soft">{bytes(a.size)}</span>
          </a>
        ))}
        {folded.length > 0 && !html && (
          <button className="link" onClick={() => setEarlier(!earlier)} aria-expanded={earlier}>
            {earlier ? 'Fold quoted text and signature' : 'Show quoted text and signature'}
          </button>
        )}
        {hasHtml && (
          <button className="link" onClick={() => setHtml(!html)} aria-pressed={html}>
            {html ? 'Show as text' : 'Show as HTML'}
          </button>
        )}
      </div>
    </article>
  );
}
