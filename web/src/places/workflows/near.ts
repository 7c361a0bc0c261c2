import { createContext } from 'react';

/** The condition that just failed on the message looked at; it is marked on the sheet. */
export const NearContext = createContext<string | null>(null);
