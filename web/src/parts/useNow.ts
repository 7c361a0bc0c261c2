import { useEffect, useState } from 'react';

/** The time, renewed now and then so that “time left” stays true. */
export function useNow(everySeconds = 20): Date {
  const [now, setNow] = useState(() => new Date());
  useEffect(() => {
    const timer = setInterval(() => setNow(new Date()), everySeconds * 1000);
    return () => clearInterval(timer);
  }, [everySeconds]);
  return now;
}
