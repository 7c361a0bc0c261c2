import { useEffect, type ReactNode } from 'react';
import { useQueryClient } from '@tanstack/react-query';
import { listen } from '@/api/live';
import { useSession } from '@/api/session';
import { SignIn } from '@/places/sign-in/SignIn';
import { Bar } from './Bar';
import { Loaded } from './States';

/** Everything around a place: sign-in first, then the bar and live updates. */
export function Frame({ children }: { children: ReactNode }) {
  const session = useSession();
  const client = useQueryClient();
  const signedIn = session.data?.signedIn ?? false;
  useEffect(() => (signedIn ? listen(client) : undefined), [signedIn, client]);
  return (
    <Loaded query={session}>
      {(me) =>
        me.signedIn ? (
          <div className="flex h-full flex-col">
            <Bar me={me} />
            <main className="min-h-0 flex-1">{children}</main>
          </div>
        ) : (
          <SignIn office={me.office} />
        )
      }
    </Loaded>
  );
}
