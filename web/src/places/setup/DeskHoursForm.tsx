import { api } from '@/api/client';
import type { SetupView } from '@/api/types';
import { TextField } from '@/parts/Field';
import { weekdays } from '@/places/workflows/conditions';
import { Foot, problem, useSetupForm } from './forms';

const zones = Intl.supportedValuesOf('timeZone');

/** The time zone of the desk and its business hours. */
export function DeskHoursForm({ record, may }: { record: SetupView['deskHours']; may: boolean }) {
  const { form, submit } = useSetupForm(
    { zone: record.zone, from: record.from, until: record.until, days: record.days },
    (v) =>
      api.PUT('/api/setup/desk-hours', {
        body: { zone: v.zone, from: v.from, until: v.until, days: v.days },
      }),
    () => undefined,
    'The desk’s hours',
  );
  const days = form.watch('days');
  return (
    <form onSubmit={submit} className="max-w-[420px]">
      <TextField
        label="Time zone"
        list="zones"
        hint="A name of the IANA time zone database."
        problem={problem(form as never, 'desk')}
        {...form.register('zone')}
      />
      <datalist id="zones">
        {['UTC', ...zones].map((z) => (
          <option key={z} value={z} />
        ))}
      </datalist>
      <div className="grid grid-cols-2 gap-4">
        <TextField label="From" type="time" {...form.register('from')} />
        <TextField label="Until" type="time" {...form.register('until')} />
      </div>
      <fieldset className="mb-4">
        <legend className="caps mb-1">On</legend>
        <span className="flex flex-wrap gap-1.5">
          {weekdays.map((name, i) => (
            <button
              key={name}
              type="button"
              aria-pressed={days.includes(i + 1)}
              disabled={!may}
              onClick={() =>
                form.setValue(
                  'days',
                  days.includes(i + 1) ? days.filter((d) => d !== i + 1) : [...days, i + 1],
                )
              }
              className="boxed text-soft aria-pressed:border-sea aria-pressed:bg-sea-wash aria-pressed:font-semibold aria-pressed:text-ink"
            >
              {name}
            </button>
          ))}
        </span>
      </fieldset>
      <Foot form={form} may={may} />
    </form>
  );
}
