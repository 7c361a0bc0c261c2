import { useState } from 'react';
import type { AutomaticKind, Condition, ConditionSet, MatchTest, MessagePart } from '@/api/types';
import { useSetup } from '@/parts/useSetup';
import {
  emptySet,
  groupWords,
  isPresence,
  kindWords,
  newCondition,
  partWords,
  readValues,
  removeAt,
  replaceAt,
  testWords,
  withPart,
  writeValues,
  type Group,
} from './sheet';

interface Props {
  set: ConditionSet;
  onChange: (set: ConditionSet) => void;
  /** The number of past messages on which a condition held, and what opens them. */
  count?: (id: string) => number | undefined;
  onCount?: (id: string) => void;
  problems: Map<string, string>;
  readOnly: boolean;
}

const groups: Group[] = ['all', 'any', 'none'];

/** A set of conditions, each a sentence whose words are fields. */
export function ConditionEditor({ set, onChange, count, onCount, problems, readOnly }: Props) {
  const put = (group: Group, list: Condition[]) => onChange({ ...emptySet, ...set, [group]: list });
  return (
    <div>
      {groups.map((group) =>
        set[group].map((condition, i) => (
          <div key={condition.id} className="mb-1.5">
            <div className="flex items-start gap-2">
              <span className="w-[46px] shrink-0 pt-[3px] text-soft">
                {i === 0 ? groupWords[group] : group === 'all' ? 'and' : 'or'}
              </span>
              <OneCondition
                condition={condition}
                readOnly={readOnly}
                onChange={(c) => put(group, replaceAt(set[group], i, c))}
              />
              {!readOnly && (
                <button
                  aria-label="Remove this condition"
                  title="Remove"
                  className="press text-soft hover:text-rust"
                  onClick={() => put(group, removeAt(set[group], i))}
                >
                  ×
                </button>
              )}
              {count && (
                <button
                  className="press ml-auto shrink-0 text-right text-soft hover:underline"
                  onClick={() => onCount?.(condition.id)}
                  title="Show the messages on which this holds"
                >
                  {group === 'none' && count(condition.id) ? '−' : ''}
                  {count(condition.id)?.toLocaleString('en') ?? ''}
                </button>
              )}
            </div>
            {problems.has(condition.id) && (
              <p className="ml-[54px] text-amber">{problems.get(condition.id)}</p>
            )}
          </div>
        )),
      )}
      {!readOnly && (
        <p className="flex gap-4 text-[13px]">
          {groups.map((g) => (
            <button key={g} className="link" onClick={() => put(g, [...set[g], newCondition()])}>
              + {groupWords[g]}
            </button>
          ))}
        </p>
      )}
    </div>
  );
}

function OneCondition({
  condition: c,
  onChange,
  readOnly,
}: {
  condition: Condition;
  onChange: (c: Condition) => void;
  readOnly: boolean;
}) {
  const lists = useSetup().data?.keywordLists ?? [];
  return (
    <span className="flex min-w-0 flex-1 flex-wrap items-center gap-1.5">
      <select
        aria-label="What to look at"
        className="boxed"
        disabled={readOnly}
        value={c.part}
        onChange={(e) => onChange(withPart(c, e.target.value as MessagePart))}
      >
        {(Object.keys(partWords) as MessagePart[]).map((p) => (
          <option key={p} value={p}>
            {partWords[p]}
          </option>
        ))}
      </select>
      {!isPresence(c.part) && (
        <select
          aria-label="How to compare"
          className="boxed"
          disabled={readOnly}
          value={c.test}
          onChange={(e) => {
            const test = e.target.value as MatchTest;
            onChange({
              ...c,
              test,
              keywordListId: test === 'HasAnyWordIn' ? (c.keywordListId ?? lists[0]?.id ?? null) : null,
            });
          }}
        >
          {(Object.keys(testWords) as MatchTest[])
            .filter((t) => t !== 'Present')
            .map((t) => (
              <option key={t} value={t}>
                {testWords[t]}
              </option>
            ))}
        </select>
      )}
      {c.test === 'HasAnyWordIn' ? (
        <select
          aria-label="Keyword list"
          className="boxed max-w-[240px]"
          disabled={readOnly}
          value={c.keywordListId ?? ''}
          onChange={(e) => onChange({ ...c, keywordListId: Number(e.target.value) })}
        >
          {c.keywordListId === null && <option value="">choose a list</option>}
          {lists.map((l) => (
            <option key={l.id} value={l.id}>
              {l.name} · {l.words.length}
            </option>
          ))}
        </select>
      ) : c.part === 'Automatic' ? (
        <Kinds kinds={c.kinds} readOnly={readOnly} onChange={(kinds) => onChange({ ...c, kinds })} />
      ) : (
        !isPresence(c.part) && (
          <Values values={c.values} readOnly={readOnly} onChange={(values) => onChange({ ...c, values })} />
        )
      )}
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

function Kinds({
  kinds,
  onChange,
  readOnly,
}: {
  kinds: Condition['kinds'];
  onChange: (k: Condition['kinds']) => void;
  readOnly: boolean;
}) {
  return (
    <span
      role="group"
      aria-label="Kinds of automatic mail; none chosen means any"
      className="flex flex-wrap gap-1"
    >
      {(Object.keys(kindWords) as AutomaticKind[]).map((k) => (
        <button
          key={k}
          aria-pressed={kinds.includes(k)}
          disabled={readOnly}
          onClick={() => onChange(kinds.includes(k) ? kinds.filter((x) => x !== k) : [...kinds, k])}
          className="boxed text-soft aria-pressed:border-sea aria-pressed:bg-sea-wash aria-pressed:font-semibold aria-pressed:text-ink"
        >
          {kindWords[k]}
        </button>
      ))}
    </span>
  );
}
