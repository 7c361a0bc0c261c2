import { format, formatDistanceStrict, isSameDay, isSameYear } from 'date-fns';

/** “09:12” today, “24 Nov 09:12” this year, with the year before that. */
export function when(at: string | Date, now = new Date()): string {
  const date = new Date(at);
  if (isSameDay(date, now)) return format(date, 'HH:mm');
  return format(date, isSameYear(date, now) ? 'd MMM HH:mm' : 'd MMM yyyy HH:mm');
}

export function exact(at: string | Date): string {
  return format(new Date(at), 'EEEE d MMMM yyyy, HH:mm:ss');
}

/** How long ago, in one unit. */
export function ago(at: string | Date, now = new Date()): string {
  return formatDistanceStrict(new Date(at), now);
}

export type DueGroup = 'Overdue' | 'Within the hour' | 'Later today' | 'Tomorrow' | 'Later' | 'No due time';

export const dueGroups: DueGroup[] = [
  'Overdue',
  'Within the hour',
  'Later today',
  'Tomorrow',
  'Later',
  'No due time',
];

/** The group a due time falls into, by the reader's own calendar. */
export function dueGroup(due: string | null, now = new Date()): DueGroup {
  if (!due) return 'No due time';
  const date = new Date(due);
  const minutes = (date.getTime() - now.getTime()) / 60000;
  if (minutes < 0) return 'Overdue';
  if (minutes <= 60) return 'Within the hour';
  if (isSameDay(date, now)) return 'Later today';
  const tomorrow = new Date(now);
  tomorrow.setDate(now.getDate() + 1);
  return isSameDay(date, tomorrow) ? 'Tomorrow' : 'Later';
}

/** Time left first in the row: “38 m”, “2 h 05”, “−12 m”; a clock time or a date when it is far. */
export function timeLeft(due: string | null, now = new Date()): string {
  if (!due) return '—';
  const minutes = Math.round((new Date(due).getTime() - now.getTime()) / 60000);
  const span = Math.abs(minutes);
  if (span >= 48 * 60) return format(new Date(due), 'd MMM');
  const text = span < 60 ? `${span} m` : `${Math.floor(span / 60)} h ${String(span % 60).padStart(2, '0')}`;
  return minutes < 0 ? `−${text}` : text;
}

export function bytes(size: number): string {
  if (size < 1000) return `${size} B`;
  return size < 1_000_000 ? `${Math.round(size / 1000)} kB` : `${(size / 1_000_000).toFixed(1)} MB`;
}
