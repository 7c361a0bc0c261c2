import { useContext } from 'react';
import type { Category, Condition, ConditionSet, MessagePart } from '@/api/types';
import { useSetup } from '@/parts/useSetup';
import { ConditionFields } from './ConditionFields';
import {
  emptySet,
  groups,
  groupWords,
  newCondition,
  partGroups,
  partWords,
  testLabel,
  testsOf,
  withPart,
  type Group,
} from './conditions';
import { NearContext } from './near';
import { removeAt, replaceAt } from './sheet';

interface Props {
  set: ConditionSet;
  onChange: (set: ConditionSet) => void;
  /** The number of past messages on which a condition held, and what opens them. */
  count?: (id: string) => number | undefined;
  onCount?: (id: string) => void;
  problems: Map<string, string>;
  readOnly: boolean;
  /** The categories a condition may ask for; only the lines know the category. */
  categories?: Category[];
  /** Whether saved conditions may be used here. */
  saved?: boolean;
  depth?: number;
}

/** Groups may stand this deep in each other. */
const deepest = 5;

/** A set of conditions, each a sentence whose words are fields. */
export function ConditionEditor(props: Props) {
  const { set, onChange, count, onCount, problems, readOnly, depth = 1 } = props;
  const near = useContext(NearContext);
  const put = (group: Group, list: Condition[]) => onChange({ ...emptySet, ...set, [group]: list });
  return (
    <div>
      {groups.map((group) =>
        set[group].map((condition, i) => (
          <div key={condition.id} className="mb-1.5">
            <div className={`flex items-start gap-2 ${near === condition.id ? 'bg-amber-wash' : ''}`}>
              <span className="w-[46px] shrink-0 pt-[3px] text-soft">
                {i === 0 ? groupWords[group] : group === 'all' ? 'and' : 'or'}
              </span>
              <OneCondition
                {...props}
                depth={depth}
                condition={condition}
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
              {count && condition.part === 'Group' && <span className="w-[44px] shrink-0" />}
              {count && condition.part !== 'Group' && (
                <button
                  className="press w-[44px] shrink-0 text-right text-soft hover:underline"
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

function OneCondition(
  props: Omit<Props, 'onChange'> & { condition: Condition; onChange: (c: Condition) => void; depth: number },
) {
  const { condition: c, onChange, readOnly, categories, saved = true, depth } = props;
  const setup = useSetup().data;
  const offered = (part: MessagePart) =>
    part === c.part ||
    ((part !== 'Category' || categories !== undefined) &&
      (part !== 'Saved' || saved) &&
      (part !== 'Group' || depth < deepest));
  const tests = testsOf(setup, c.part);
  const part = (
    <select
      aria-label="What to look at"
      className="boxed max-w-[230px] field-sizing-content"
      disabled={readOnly}
      value={c.part}
      onChange={(e) => {
        const next = e.target.value as MessagePart;
        onChange(withPart(c, next, testsOf(setup, next)));
      }}
    >
      {partGroups.map((g) => (
        <optgroup key={g.label} label={g.label}>
          {g.parts.filter(offered).map((p) => (
            <option key={p} value={p}>
              {partWords[p]}
            </option>
          ))}
        </optgroup>
      ))}
    </select>
  );
  if (c.part === 'Group')
    return (
      <span className="min-w-0 flex-1">
        {part}
        <div className="mt-1.5 border-l-2 border-line pl-2">
          <ConditionEditor
            {...props}
            depth={depth + 1}
            set={c.set ?? emptySet}
            onChange={(set) => onChange({ ...c, set })}
          />
        </div>
      </span>
    );
  return (
    <span className="flex min-w-0 flex-1 flex-wrap items-center gap-1.5">
      {part}
      <ConditionFields condition={c} onChange={onChange} readOnly={readOnly} setup={setup} at="before" />
      {tests.length > 1 ? (
        <select
          aria-label="How to compare"
          className="boxed field-sizing-content"
          disabled={readOnly}
          value={c.test}
          onChange={(e) =>
            onChange(withTest(c, e.target.value as Condition['test'], setup?.keywordLists[0]?.id))
          }
        >
          {tests.map((t) => (
            <option key={t} value={t}>
              {testLabel(c.part, t)}
            </option>
          ))}
        </select>
      ) : (
        c.test !== 'Present' && <span className="text-soft">{testLabel(c.part, c.test)}</span>
      )}
      <ConditionFields
        condition={c}
        onChange={onChange}
        readOnly={readOnly}
        setup={setup}
        categories={categories}
        at="after"
      />
    </span>
  );
}

/** Another test on the same part; a keyword list is chosen at once where one is needed. */
function withTest(c: Condition, test: Condition['test'], firstList: number | undefined): Condition {
  return {
    ...c,
    test,
    keywordListId: test === 'HasAnyWordIn' ? (c.keywordListId ?? firstList ?? null) : null,
    least: test === 'Between' ? c.least : null,
    most: test === 'Between' ? c.most : null,
  };
}
