import { useState, type ReactNode } from 'react';
import { Popover } from 'radix-ui';
import type { Category, Rehearsal, RehearsalViewName, Sheet, TableFinding } from '@/api/types';
import { useSetup } from '@/parts/useSetup';
import { ConditionEditor } from './ConditionEditor';
import { SorterChoice } from './SorterChoice';
import { newCategory, replaceAt, withoutCategory } from './sheet';

export interface BandProps {
  sheet: Sheet;
  onChange: (sheet: Sheet) => void;
  rehearsal: Rehearsal | null;
  /** Opens the messages behind a count. */
  onOpen: (view: RehearsalViewName, key: string | undefined, title: string) => void;
  problems: Map<string, string>;
  /** What logic shows about categories and lines. */
  findings: TableFinding[];
  readOnly: boolean;
}

export function Band({ name, note, children }: { name: string; note?: ReactNode; children: ReactNode }) {
  return (
    <section aria-label={name} className="grid grid-cols-[92px_minmax(0,1fr)] border-b border-line py-3">
      <div className="pr-2">
        <h2 className="band">{name}</h2>
        {note && <div className="text-[12.5px] leading-tight text-soft">{note}</div>}
      </div>
      <div className="min-w-0">{children}</div>
    </section>
  );
}

export function TakesIn({ sheet, onChange, rehearsal, onOpen, problems, readOnly }: BandProps) {
  return (
    <Band name="Takes in">
      <div className="mb-1.5 flex items-start gap-2">
        <span className="w-[46px] shrink-0 pt-[3px] text-soft">mail to</span>
        <Addresses sheet={sheet} onChange={onChange} readOnly={readOnly} />
        {rehearsal && (
          <button
            className="press ml-auto shrink-0 font-semibold hover:underline"
            onClick={() => onOpen('TakenIn', undefined, 'Taken in')}
            title="Show the messages taken in"
          >
            {rehearsal.summary.takenIn.toLocaleString('en')} of{' '}
            {rehearsal.summary.messages.toLocaleString('en')}
          </button>
        )}
      </div>
      <ConditionEditor
        set={sheet.takesIn}
        onChange={(takesIn) => onChange({ ...sheet, takesIn })}
        count={(id) => (rehearsal ? (rehearsal.summary.conditions[id] ?? 0) : undefined)}
        onCount={(id) => onOpen('Condition', id, 'The condition holds on')}
        problems={problems}
        readOnly={readOnly}
      />
      {problems.has('takes in') && <p className="text-amber">{problems.get('takes in')}</p>}
    </Band>
  );
}

function Addresses({ sheet, onChange, readOnly }: Pick<BandProps, 'sheet' | 'onChange' | 'readOnly'>) {
  const known = useSetup().data?.mailboxes.flatMap((m) => m.addresses.map((a) => a.address)) ?? [];
  const all = [...new Set([...known, ...sheet.addresses])];
  const toggle = (a: string) =>
    onChange({
      ...sheet,
      addresses: sheet.addresses.includes(a)
        ? sheet.addresses.filter((x) => x !== a)
        : [...sheet.addresses, a],
    });
  return (
    <Popover.Root>
      <Popover.Trigger
        disabled={readOnly}
        className="flex min-w-0 flex-wrap gap-1.5 text-left"
        aria-label="Addresses"
      >
        {sheet.addresses.length === 0 ? (
          <span className="boxed">every address</span>
        ) : (
          sheet.addresses.map((a) => (
            <span key={a} className="boxed break-all">
              {a}
            </span>
          ))
        )}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content align="start" sideOffset={4} className="z-40 border border-ink bg-sheet p-3">
          <p className="caps mb-1">Originally written to</p>
          {all.map((a) => (
            <label key={a} className="flex items-center gap-2 py-0.5">
              <input type="checkbox" checked={sheet.addresses.includes(a)} onChange={() => toggle(a)} />
              {a}
            </label>
          ))}
          <p className="mt-1 max-w-[38ch] text-soft">
            With none chosen, mail to every address is looked at. A sub-address such as name+tag@ counts as
            its address.
          </p>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

export function SortsInto({ sheet, onChange, rehearsal, onOpen, problems, findings, readOnly }: BandProps) {
  const [open, setOpen] = useState<string | null>(null);
  const counts = rehearsal?.summary.categories ?? {};
  const most = Math.max(
    1,
    ...Object.values(counts),
    rehearsal?.summary.noneOfThese ?? 0,
    rehearsal?.summary.unsure ?? 0,
  );
  const at = sheet.categories.findIndex((c) => c.id === open);
  const chosen = sheet.categories[at];
  const put = (c: Category) => onChange({ ...sheet, categories: replaceAt(sheet.categories, at, c) });
  return (
    <Band
      name="Sorts into"
      note={sheet.sorterId === null ? 'first that holds' : 'conditions first, then the sorter'}
    >
      <SorterChoice
        sheet={sheet}
        onChange={onChange}
        problem={problems.get('sorts into')}
        readOnly={readOnly}
      />
      {sheet.categories.length > 0 && (
        <div
          className="grid border border-line bg-sheet"
          style={{
            gridTemplateColumns: `repeat(${Math.min(5, sheet.categories.length + (sheet.sorterId === null ? 1 : 2))}, minmax(0, 1fr))`,
          }}
        >
          {sheet.categories.map((c) => (
            <div
              key={c.id}
              className={`border-r border-b border-line px-2.5 py-1.5 ${open === c.id ? 'bg-sea-wash' : ''}`}
            >
              <button
                className="press block w-full truncate text-left leading-6 hover:underline"
                aria-expanded={open === c.id}
                onClick={() => setOpen(open === c.id ? null : c.id)}
                title={c.name}
              >
                {c.name}
              </button>
              <Count
                value={rehearsal ? (counts[c.id] ?? 0) : undefined}
                most={most}
                onOpen={() => onOpen('Category', c.id, c.name)}
                label={c.name}
              />
              {[
                problems.get(c.id),
                ...findings.filter((f) => f.at === c.id && f.kind !== 'FallsThrough').map((f) => f.text),
              ]
                .filter(Boolean)
                .map((text) => (
                  <p key={text} className="text-[12px] text-amber">
                    {text}
                  </p>
                ))}
            </div>
          ))}
          <div className="bg-amber-wash px-2.5 py-1.5">
            <span className="press block truncate leading-6">None of these</span>
            <Count
              value={rehearsal?.summary.noneOfThese}
              most={most}
              amber
              onOpen={() => onOpen('NoneOfThese', undefined, 'None of these')}
              label="None of these"
            />
          </div>
          {sheet.sorterId !== null && (
            <div className="border-l border-line bg-amber-wash px-2.5 py-1.5">
              <span className="press block truncate leading-6">Unsure</span>
              <Count
                value={rehearsal?.summary.unsure}
                most={most}
                amber
                onOpen={() => onOpen('Unsure', undefined, 'Unsure')}
                label="Unsure"
              />
            </div>
          )}
        </div>
      )}
      {chosen && (
        <div className="border border-t-0 border-line bg-sheet p-3">
          <div className="mb-2 flex items-center gap-2">
            <input
              aria-label="Name of the category"
              className="boxed w-[240px] font-semibold"
              value={chosen.name}
              disabled={readOnly}
              onChange={(e) => put({ ...chosen, name: e.target.value })}
            />
            {!readOnly && (
              <button
                className="link ml-auto"
                onClick={() => {
                  onChange(withoutCategory(sheet, chosen.id));
                  setOpen(null);
                }}
              >
                Remove with its lines
              </button>
            )}
          </div>
          {chosen.bySorter && (
            <p className="mb-2 text-soft">
              The sorter recognises it. Conditions here hold before the sorter is asked.
            </p>
          )}
          <ConditionEditor
            set={chosen.when}
            onChange={(when) => put({ ...chosen, when })}
            problems={problems}
            readOnly={readOnly}
          />
        </div>
      )}
      {!readOnly && (
        <button
          className="link mt-1.5"
          onClick={() => {
            const category = newCategory();
            onChange({ ...sheet, categories: [...sheet.categories, category] });
            setOpen(category.id);
          }}
        >
          Add a category
        </button>
      )}
      {sheet.categories.length === 0 && (
        <span className="ml-4 text-soft">Without categories, lines apply to everything taken in.</span>
      )}
    </Band>
  );
}

function Count(props: {
  value: number | undefined;
  most: number;
  onOpen: () => void;
  amber?: boolean;
  label: string;
}) {
  return (
    <>
      <button
        className="press block text-left text-[16px] font-semibold hover:underline"
        onClick={props.onOpen}
        aria-label={`${props.value ?? 0} messages: ${props.label}`}
      >
        {props.value?.toLocaleString('en') ?? '…'}
      </button>
      <span
        className={`block h-[3px] ${props.amber ? 'bg-amber' : 'bg-sea'}`}
        style={{
          width: `${Math.round((100 * (props.value ?? 0)) / props.most)}%`,
          minWidth: props.value ? 3 : 0,
        }}
      />
    </>
  );
}

export function ReadsOut({ sheet, onChange, readOnly }: BandProps) {
  const facts = useSetup().data?.facts ?? [];
  const toggle = (f: string) =>
    onChange({
      ...sheet,
      facts: sheet.facts.includes(f) ? sheet.facts.filter((x) => x !== f) : [...sheet.facts, f],
    });
  return (
    <Band name="Reads out">
      <span role="group" aria-label="Facts" className="flex flex-wrap gap-1.5">
        {facts.map((f) => (
          <button
            key={f}
            aria-pressed={sheet.facts.includes(f)}
            disabled={readOnly}
            onClick={() => toggle(f)}
            className="boxed text-soft aria-pressed:border-sea aria-pressed:bg-sea-wash aria-pressed:font-semibold aria-pressed:text-ink"
          >
            {f.replaceAll('_', ' ')}
          </button>
        ))}
      </span>
      <p className="mt-1 text-soft">
        Facts chosen here can stand in templates and folder names, such as <code>{'{{ sender_name }}'}</code>,
        and are passed on.
      </p>
    </Band>
  );
}

export function LimitsBand({ sheet, onChange, readOnly }: BandProps) {
  const limits = sheet.limits;
  return (
    <Band name="Limits">
      <p className="flex flex-wrap items-center gap-2">
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            disabled={readOnly}
            checked={limits.oneReplyPerSenderHours !== null}
            onChange={(e) =>
              onChange({
                ...sheet,
                limits: { ...limits, oneReplyPerSenderHours: e.target.checked ? 24 : null },
              })
            }
          />
          one reply per sender in
        </label>
        <input
          aria-label="Hours between replies to one sender"
          type="number"
          min={1}
          max={8760}
          className="boxed w-[70px]"
          disabled={readOnly || limits.oneReplyPerSenderHours === null}
          value={limits.oneReplyPerSenderHours ?? ''}
          onChange={(e) =>
            e.target.value &&
            onChange({
              ...sheet,
              limits: { ...limits, oneReplyPerSenderHours: Math.max(1, Number(e.target.value)) },
            })
          }
        />
        h
        <label className="ml-4 flex items-center gap-2">
          <input
            type="checkbox"
            disabled={readOnly}
            checked={limits.skipLaterWorkflows}
            onChange={(e) =>
              onChange({ ...sheet, limits: { ...limits, skipLaterWorkflows: e.target.checked } })
            }
          />
          later workflows are skipped
        </label>
      </p>
      <p className="mt-1 text-soft">
        Automatic mail, lists, no-reply addresses and ourselves are never answered, whatever stands here.
      </p>
    </Band>
  );
}
