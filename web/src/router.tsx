import { createRootRoute, createRoute, createRouter, Outlet } from '@tanstack/react-router';
import { z } from 'zod';
import { Frame } from '@/parts/Frame';
import { Today } from '@/places/today/Today';
import { Queues } from '@/places/queues/Queues';
import { Tickets } from '@/places/tickets/Tickets';
import { Ticket } from '@/places/tickets/Ticket';
import { Replies } from '@/places/replies/Replies';
import { Files } from '@/places/files/Files';
import { Mail } from '@/places/mail/Mail';
import { Workflows } from '@/places/workflows/Workflows';
import { WorkflowPage } from '@/places/workflows/WorkflowPage';
import { SorterPage } from '@/places/sorters/SorterPage';
import { Setup } from '@/places/setup/Setup';
import { Log } from '@/places/log/Log';
import { CatchUp } from '@/places/catch-up/CatchUp';

const root = createRootRoute({
  component: () => (
    <Frame>
      <Outlet />
    </Frame>
  ),
  notFoundComponent: () => <p className="p-6">There is no such page.</p>,
});

const text = z.string().optional().catch(undefined);
const number = z.coerce.number().int().optional().catch(undefined);

const routes = [
  createRoute({ getParentRoute: () => root, path: '/', component: Today }),
  createRoute({
    getParentRoute: () => root,
    path: '/queues',
    component: Queues,
    validateSearch: z.object({
      queue: number,
      item: number,
      show: z.enum(['open', 'mine', 'waiting']).optional().catch(undefined),
    }),
  }),
  createRoute({
    getParentRoute: () => root,
    path: '/tickets',
    component: Tickets,
    validateSearch: z.object({
      state: z.enum(['Open', 'Waiting', 'Closed']).optional().catch(undefined),
      text,
    }),
  }),
  createRoute({ getParentRoute: () => root, path: '/tickets/$reference', component: Ticket }),
  createRoute({
    getParentRoute: () => root,
    path: '/replies',
    component: Replies,
    validateSearch: z.object({
      show: z.enum(['Checking', 'Scheduled', 'Sent', 'Stuck', 'Stopped']).optional().catch(undefined),
      deed: number,
    }),
  }),
  createRoute({
    getParentRoute: () => root,
    path: '/files',
    component: Files,
    validateSearch: z.object({ folder: text, text }),
  }),
  createRoute({
    getParentRoute: () => root,
    path: '/mail',
    component: Mail,
    validateSearch: z.object({
      id: number,
      text,
      show: z
        .enum(['All', 'TakenIn', 'LeftAlone', 'Automatic', 'Old', 'Held', 'Duplicate', 'Unreadable'])
        .optional()
        .catch(undefined),
      mailbox: number,
      workflow: number,
      run: number,
      from: text,
      until: text,
    }),
  }),
  createRoute({ getParentRoute: () => root, path: '/workflows', component: Workflows }),
  createRoute({
    getParentRoute: () => root,
    path: '/workflows/$id',
    component: WorkflowPage,
    validateSearch: z.object({ sorter: z.literal('in-hand').optional().catch(undefined) }),
  }),
  createRoute({ getParentRoute: () => root, path: '/workflows/sorters/$id', component: SorterPage }),
  createRoute({
    getParentRoute: () => root,
    path: '/setup',
    component: Setup,
    validateSearch: z.object({ part: text, id: number }),
  }),
  createRoute({
    getParentRoute: () => root,
    path: '/log',
    component: Log,
    validateSearch: z.object({
      tab: z.enum(['runs', 'deeds']).optional().catch(undefined),
      run: number,
      mailbox: number,
      workflow: number,
      outcome: text,
      text,
      from: text,
      until: text,
    }),
  }),
  createRoute({
    getParentRoute: () => root,
    path: '/catch-up',
    component: CatchUp,
    validateSearch: z.object({
      run: number,
      workflow: number,
      mailbox: number,
      text,
      show: z.enum(['All', 'TakenIn', 'LeftAlone', 'Old']).optional().catch(undefined),
      ids: z.array(z.number()).optional().catch(undefined),
      from: text,
      until: text,
    }),
  }),
] as const;

export const router = createRouter({ routeTree: root.addChildren([...routes]), defaultPreload: false });

declare module '@tanstack/react-router' {
  interface Register {
    router: typeof router;
  }
}
