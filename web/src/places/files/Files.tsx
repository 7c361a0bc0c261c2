import { Link, useNavigate, useSearch } from '@tanstack/react-router';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import { Empty, Loaded } from '@/parts/States';
import { bytes, when } from '@/parts/time';

/** Files: folders on the left, what is in them on the right. */
export function Files() {
  const { folder, text = '' } = useSearch({ from: '/files' });
  const navigate = useNavigate({ from: '/files' });
  const files = useQuery({
    queryKey: ['files', folder, text],
    queryFn: () => body(api.GET('/api/files', { params: { query: { folder, text } } })),
    placeholderData: keepPreviousData,
  });
  const row =
    'block w-full truncate border-l-[3px] border-transparent py-1 pr-3 text-left hover:bg-sheet aria-[current]:border-l-sea aria-[current]:bg-sheet aria-[current]:font-semibold';
  return (
    <div className="grid h-full grid-cols-[280px_minmax(0,1fr)]">
      <nav aria-label="Folders" className="min-h-0 overflow-y-auto border-r border-line py-3" tabIndex={0}>
        <h1 className="title px-4 pb-2 !text-[21px]">Files</h1>
        <button
          className={`${row} pl-[13px]`}
          aria-current={folder === undefined ? 'true' : undefined}
          onClick={() => void navigate({ search: {} })}
        >
          All folders
        </button>
        {files.data?.folders.map((f) => {
          const levels = f.path === '' ? ['(top)'] : f.path.split('/');
          return (
            <button
              key={f.path}
              className={row}
              style={{ paddingLeft: 13 + 16 * levels.length }}
              aria-current={folder === f.path ? 'true' : undefined}
              onClick={() => void navigate({ search: { folder: f.path } })}
            >
              {levels.at(-1)} <span className="font-normal text-soft">{f.files}</span>
            </button>
          );
        })}
      </nav>
      <section aria-label="Files" className="min-h-0 overflow-y-auto px-6 pb-8" tabIndex={0}>
        <header className="flex items-baseline gap-4 py-3">
          <h2 className="heading">{folder === undefined ? 'All folders' : folder || '(top)'}</h2>
          <input
            type="search"
            aria-label="Find a file by name"
            placeholder="Part of a name"
            defaultValue={text}
            onChange={(e) =>
              void navigate({ search: { folder, text: e.target.value || undefined }, replace: true })
            }
            className="boxed ml-auto w-[220px]"
          />
        </header>
        <Loaded query={files}>
          {(list) =>
            list.files.length === 0 ? (
              <Empty title="No file here">
                {text
                  ? 'No name holds these letters.'
                  : 'A workflow’s line can file attachments into a folder; at the desk F does it by hand.'}
              </Empty>
            ) : (
              <>
                <table className="table table-fixed">
                  <thead>
                    <tr>
                      <th>Name</th>
                      <th className="w-[220px]">Folder</th>
                      <th className="num w-[80px]">Size</th>
                      <th className="num w-[120px]">Filed</th>
                      <th className="num w-[90px] !pr-0">From</th>
                    </tr>
                  </thead>
                  <tbody>
                    {list.files.map((f) => (
                      <tr key={f.id} className="opens">
                        <td className="font-semibold break-all">
                          <a
                            href={`/api/files/${f.id}/content`}
                            className="no-underline hover:underline"
                            title="Download"
                          >
                            {f.name}
                          </a>
                        </td>
                        <td className="truncate text-soft">{f.folder}</td>
                        <td className="num">{bytes(f.size)}</td>
                        <td className="num text-soft">{when(f.filedAt)}</td>
                        <td className="num !pr-0">
                          <Link to="/mail" search={{ id: f.messageId }} className="link">
                            message
                          </Link>
                        </td>
                      </tr>
                    ))}
                  </tbody>
                </table>
                {list.more && (
                  <p className="py-2 text-soft">
                    These are the 500 filed last. Choose a folder or a name to see others.
                  </p>
                )}
              </>
            )
          }
        </Loaded>
      </section>
    </div>
  );
}
