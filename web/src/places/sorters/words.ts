import type { Share, SorterSettings } from '@/api/types';

/** What a category is called; null and an empty id stand for none of these. */
export function nameOf(settings: Pick<SorterSettings, 'categories'>, id: string | null | undefined): string {
  if (!id) return 'None of these';
  return settings.categories.find((c) => c.id === id)?.name ?? 'a category that is gone';
}

/** The 95 % interval of a share. */
export function interval(share: Share): string {
  return `${(share.low * 100).toFixed(1)} to ${(share.high * 100).toFixed(1)}`;
}

/** Number words for counts of examples. */
export function examples(count: number): string {
  return `${count.toLocaleString('en')} ${count === 1 ? 'example' : 'examples'}`;
}
