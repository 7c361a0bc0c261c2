/** The moment at which a day of the reader's calendar begins, for asking the server. */
export function dayStart(day: string | undefined): string | undefined {
  return day ? new Date(`${day}T00:00:00`).toISOString() : undefined;
}

/** The moment at which a day ends. */
export function dayEnd(day: string | undefined): string | undefined {
  if (!day) return undefined;
  const end = new Date(`${day}T00:00:00`);
  end.setDate(end.getDate() + 1);
  return end.toISOString();
}
