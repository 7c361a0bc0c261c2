import { HubConnectionBuilder, LogLevel } from '@microsoft/signalr';
import type { QueryClient } from '@tanstack/react-query';

/** What a change in one place makes stale in others. */
const touches: Record<string, string[]> = {
  mail: ['mail', 'today'],
  queues: ['queues', 'mail', 'today'],
  tickets: ['tickets', 'mail'],
  replies: ['replies', 'mail', 'today'],
  files: ['files', 'mail'],
  deeds: ['deeds', 'log', 'mail', 'today', 'workflows'],
  workflows: ['workflows'],
  setup: ['setup', 'today'],
  sorters: ['sorters', 'sorting', 'setup'],
  runs: ['log', 'catch-up', 'today', 'setup'],
};

/** Listens for changes and has the open screens ask again. Gives the function that ends it. */
export function listen(client: QueryClient): () => void {
  const connection = new HubConnectionBuilder()
    .withUrl('/live')
    .withAutomaticReconnect({
      nextRetryDelayInMilliseconds: (c) => Math.min(1000 * 2 ** c.previousRetryCount, 15000),
    })
    .configureLogging(LogLevel.None)
    .build();
  connection.on('changed', (places: string[]) => {
    for (const key of new Set(places.flatMap((p) => touches[p] ?? []))) {
      void client.invalidateQueries({ queryKey: [key] });
    }
  });
  connection.onreconnected(() => void client.invalidateQueries());
  void connection.start().catch(() => undefined);
  return () => void connection.stop();
}
