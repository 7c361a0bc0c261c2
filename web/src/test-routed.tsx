import {
  createMemoryHistory,
  createRootRoute,
  createRoute,
  createRouter,
  Outlet,
  RouterProvider,
} from '@tanstack/react-router';
import type { FC } from 'react';
import { show } from './test-api';

/** Renders a place at an address, with the routes of the other places there to be linked to. */
export function showAt(path: string, address: string, component: FC) {
  const root = createRootRoute({ component: Outlet });
  const paths = [
    '/',
    '/queues',
    '/tickets',
    '/tickets/$reference',
    '/replies',
    '/files',
    '/mail',
    '/workflows',
    '/workflows/$id',
    '/workflows/sorters/$id',
    '/setup',
    '/log',
    '/catch-up',
  ];
  const router = createRouter({
    routeTree: root.addChildren(
      paths.map((p) =>
        createRoute({
          getParentRoute: () => root,
          path: p,
          component: p === path ? component : () => <p>another place</p>,
          validateSearch: (s: Record<string, unknown>) => s,
        }),
      ),
    ),
    history: createMemoryHistory({ initialEntries: [address] }),
  });
  show(<RouterProvider router={router as never} />);
  return router;
}
