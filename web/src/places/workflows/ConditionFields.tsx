import { useState } from 'react';
import type { AutomaticKind, Category, Condition, SetupView } from '@/api/types';
import {
  authenticationMethods,
  authenticationResults,
  kindWords,
  readValues,
  unitOf,
  usesNumbers,
  usesText,
  weekdays,
  writeValues,
} from './conditions';

interface Props {
  condition: Condition;
  onChange: (c: Condition) => void;
  readOnly: boolean;
  setup: SetupView | undefined;
  categories?: Category[];
  /** What stands before the test, such as a name, or what it compares with. */
  at: 'before' | 'after';
}

/** The fields of one condition besides its part and its test. */
export function ConditionFields(props: Props) {
  return props.at === 'before' ? <Before {...props} /> : <After {...props} />;
}

function Before({ condition: c, onChange, readOnly, setup }: Props) {
  switch (c.part) {
    case 'Header':
      return (
        <input
          aria-label="Name of the header field"
          placeholder="X-Priority"
          className="boxed w-[130px] font-mono"
          disabled={readOnly}
          value={c.name ?? ''}
          onChange={(e) => onChange({ ...c, name: e.target.value.trim() })}
        />
      );
    case 'Fact':
      return (
        <Choice
          label="Fact"
          value={c.name ?? ''}
          options={(setup?.facts ?? []).map((f) => [f, f.replaceAll('_', ' ')])}
          empty="choose a fact"
          {...{ readOnly }}
          onChange={(name) => onChange({ ...c, name })}
        />
      );
    case 'Authentication':
      return (
        <Choice
          label="Method"
          value={c.name ?? ''}
          options={authenticationMethods.map((m) => [m, m])}
          {...{ readOnly }}
          onChange={(name) => onChange({ ...c, name })}
        />
      );
    case 'WordAtPlace':
      return <Place condition={c} onChange={onChange} readOnly={readOnly} />;
    default:
      return null;
  }
}

function After({ condition: c, onChange, readOnly, setup, categories }: Props) {
  const choose = (values: string[]) => onChange({ ...c, values });
  if (c.part === 'Saved')
    return (
      <Choice
        label="Saved condition"
        value={c.savedId === null ? '' : String(c.savedId)}
        options={(setup?.savedConditions ?? []).map((s) => [String(s.id), s.name])}
        empty="choose one"
        {...{ readOnly }}
        onChange={(id) => onChange({ ...c, savedId: Number(id) })}
      />
    );
  if (c.part === 'Automatic')
    return (
      <Toggles
        label="Kinds of automatic mail; none chosen means any"
        options={Object.entries(kindWords)}
        chosen={c.kinds as string[]}
        {...{ readOnly }}
        onChange={(kinds) => onChange({ ...c, kinds: kinds as AutomaticKind[] })}
      />
    );
  if (c.part === 'Weekday')
    return (
      <Toggles
        label="Days of the week"
        options={weekdays.map((d) => [d, d.slice(0, 3)])}
        chosen={c.values}
        {...{ readOnly }}
        onChange={choose}
      />
    );
  if (c.part === 'Authentication')
    return (
      <Toggles
        label="Results"
        options={authenticationResults.map((r) => [r, r])}
        chosen={c.values}
        {...{ readOnly }}
        onChange={choose}
      />
    );
  if (c.part === 'Category')
    return (
      <Toggles
        label="Categories"
        options={(categories ?? []).map((k) => [k.id, k.name])}
        chosen={c.values}
        {...{ readOnly }}
        onChange={choose}
      />
    );
  if (c.test === 'HasAnyWordIn')
    return (
      <>
        <Choice
          label="Keyword list"
          value={c.keywordListId === null ? '' : String(c.keywordListId)}
          options={(setup?.keywordLists ?? []).map((l) => [String(l.id), `${l.name} · ${l.words.length}`])}
          empty="choose a list"
          {...{ readOnly }}
          onChange={(id) => onChange({ ...c, keywordListId: Number(id) })}
        />
        <Options condition={c} onChange={onChange} readOnly={readOnly} />
      </>
    );
  if (c.test === 'Between')
    return usesNumbers(c.part, c.test) ? (
      <Numbers condition={c} onChange={onChange} readOnly={readOnly} />
    ) : (
      <Times condition={c} onChange={onChange} readOnly={readOnly} />
    );
  if (usesText(c.test))
    return (
      <>
        <Values values={c.values} readOnly={readOnly} onChange={choose} />
        <Options condition={c} onChange={onChange} readOnly={readOnly} />
      </>
    );
  return null;
}

type Editing = Pick<Props, 'condition' | 'onChange' | 'readOnly'>;

/** How the text is looked at: all of the body, and capital letters told apart. */
function Options({ condition: c, onChange, readOnly }: Editing) {
  const body = c.part === 'Body' || c.part === 'SubjectOrBody' || c.part === 'WordAtPlace';
  const toggle = (label: string, on: boolean, change: Partial<Condition>, title: string) =>
    readOnly && !on ? null : (
      <button
        type="button"
        aria-pressed={on}
        title={title}
        disabled={readOnly}
        onClick={() => onChange({ ...c, ...change })}
        className="rounded-[2px] px-1 text-[12px] text-soft aria-pressed:bg-sea-wash aria-pressed:font-semibold aria-pressed:text-ink hover:underline"
      >
        {label}
      </button>
    );
  return (
    <>
      {body &&
        toggle(
          'history too',
          c.wholeBody,
          { wholeBody: !c.wholeBody },
          'Look at quoted history and the signature too, not only at what is new',
        )}
      {usesText(c.test) &&
        toggle('same case', c.sameCase, { sameCase: !c.sameCase }, 'Tell capital and small letters apart')}
    </>
  );
}

function Choice(props: {
  label: string;
  value: string;
  options: [string, string][];
  empty?: string;
  onChange: (value: string) => void;
  readOnly: boolean;
}) {
  return (
    <select
      aria-label={props.label}
      className="boxed max-w-[240px] field-sizing-content"
      disabled={props.readOnly}
      value={props.value}
      onChange={(e) => props.onChange(e.target.value)}
    >
      {props.value === '' && <option value="">{props.empty}</option>}
      {props.options.map(([value, label]) => (
        <option key={value} value={value}>
          {label}
        </option>
      ))}
    </select>
  );
}

function Toggles(props: {
  label: string;
  options: [string, string][];
  chosen: readonly string[];
  onChange: (chosen: string[]) => void;
  readOnly: boolean;
}) {
  const { chosen } = props;
  return (
    <span role="group" aria-label={props.label} className="flex flex-wrap gap-1">
      {props.options.map(([value, label]) => (
        <button
          key={value}
          type="button"
          aria-pressed={chosen.includes(value)}
          disabled={props.readOnly}
          onClick={() =>
            props.onChange(chosen.includes(value) ? chosen.filter((x) => x !== value) : [...chosen, value])
          }
          className="boxed text-soft aria-pressed:border-sea aria-pressed:bg-sea-wash aria-pressed:font-semibold aria-pressed:text-ink"
        >
          {label}
        </button>
      ))}
    </span>
  );
}

function Values({
  values,
  onChange,
  readOnly,
}: {
  values: string[];
  onChange: (v: string[]) => void;
  readOnly: boolean;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  return (
    <input
      aria-label="Values, separated by commas"
      placeholder="words, separated by commas"
      className="boxed min-w-[180px] flex-1"
      disabled={readOnly}
      value={typed ?? writeValues(values)}
      onChange={(e) => {
        setTyped(e.target.value);
        onChange(readValues(e.target.value));
      }}
      onBlur={() => setTyped(null)}
    />
  );
}

const numberOrNull = (text: string) => (text === '' || Number.isNaN(Number(text)) ? null : Number(text));

function Numbers({ condition: c, onChange, readOnly }: Editing) {
  const unit = unitOf(c.part);
  const shown = (n: number | null) => (n === null ? '' : n / unit);
  const read = (text: string) => {
    const n = numberOrNull(text);
    return n === null ? null : n * unit;
  };
  const field = (label: string, value: number | null, change: (n: number | null) => Partial<Condition>) => (
    <input
      aria-label={label}
      type="number"
      className="boxed w-[84px]"
      placeholder="any"
      disabled={readOnly}
      value={shown(value)}
      onChange={(e) => onChange({ ...c, ...change(read(e.target.value)) })}
    />
  );
  return (
    <span className="flex items-center gap-1.5">
      {field('At least', c.least, (least) => ({ least }))}
      and
      {field('At most', c.most, (most) => ({ most }))}
      {unit > 1 && 'kB'}
      {c.part === 'Age' && 'days'}
    </span>
  );
}

function Times({ condition: c, onChange, readOnly }: Editing) {
  const type = c.part === 'Hour' ? 'time' : 'date';
  return (
    <span className="flex items-center gap-1.5">
      <input
        aria-label="From"
        type={type}
        className="boxed"
        disabled={readOnly}
        value={c.from ?? ''}
        onChange={(e) => onChange({ ...c, from: e.target.value || null })}
      />
      and
      <input
        aria-label="Until"
        type={type}
        className="boxed"
        disabled={readOnly}
        value={c.until ?? ''}
        onChange={(e) => onChange({ ...c, until: e.target.value || null })}
      />
    </span>
  );
}

function Place({ condition: c, onChange, readOnly }: Editing) {
  const place = c.place ?? { line: 1, word: 1 };
  return (
    <span
      className="flex items-center gap-1.5"
      title="Lines that hold a word are counted; −1 is the last. Without a word, the whole line."
    >
      word
      <input
        aria-label="Word number; empty for the whole line"
        type="number"
        className="boxed w-[52px]"
        placeholder="all"
        disabled={readOnly}
        value={place.word ?? ''}
        onChange={(e) => onChange({ ...c, place: { ...place, word: numberOrNull(e.target.value) } })}
      />
      of line
      <input
        aria-label="Line number"
        type="number"
        className="boxed w-[52px]"
        disabled={readOnly}
        value={place.line}
        onChange={(e) => onChange({ ...c, place: { ...place, line: numberOrNull(e.target.value) ?? 1 } })}
      />
    </span>
  );
}
